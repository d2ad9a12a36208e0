import type { Schemas } from "../../../../api/client";
import { Scroll } from "../../../../ui/Scroll";

type Found = Schemas["MoneyOut"];
const SIGNS = { gain: "▲", loss: "▼", no_difference_that_matters: "=", cannot_tell_yet: "?" } as const;

function Heads({ money }: { money: Found }) {
  return (
    <thead>
      <tr>
        <th>Extra costs</th>
        {money.prices.map((price) => (
          <th key={price} className="num">
            {price}
          </th>
        ))}
      </tr>
    </thead>
  );
}

/** The call and the gain at other prices and costs; the middle is how things are. */
export function CallGrid({ comparisonMoney, money }: { comparisonMoney: Schemas["ComparisonMoneyOut"]; money: Found }) {
  return (
    <Scroll label="Gain by price and cost">
      <table className="figures mt-1">
        <caption className="text-left font-semibold">Gain and call by price and extra costs</caption>
        <Heads money={money} />
        <tbody>
          {comparisonMoney.grid.map((row, place) => (
            <tr key={money.costs[place]}>
              <th scope="row" className="num">
                {money.costs[place]}
              </th>
              {row.map((cell, column) => (
                <td
                  key={money.prices[column]}
                  className={`num ${cell.here ? "font-bold outline outline-2 outline-base-content" : ""}`}
                  title={`${cell.call_words}: ${cell.lower.text} to ${cell.upper.text}`}
                >
                  <span aria-hidden="true">{cell.call ? SIGNS[cell.call] : "–"}</span>
                  <span className="sr-only">{cell.call_words}, </span> {cell.estimate.text}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="muted text-sm">
        ▲ gain, ▼ loss, = no difference that matters, ? not clear yet, each from its interval. The framed cell is today.
      </p>
    </Scroll>
  );
}

/** The best amount at other prices and costs. */
export function BestGrid({ money }: { money: Found }) {
  return (
    <table className="figures mt-1">
      <caption className="text-left font-semibold">
        Best {money.optimum.factor.toLowerCase()} in {money.optimum.unit}, by price and its cost
      </caption>
      <Heads money={money} />
      <tbody>
        {money.optimum.grid.map((row, place) => (
          <tr key={money.costs[place]}>
            <th scope="row" className="num">
              {money.costs[place]}
            </th>
            {row.map((cell, column) => (
              <td key={money.prices[column]} className="num">
                {cell}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
