import type { Schemas } from "../../../../api/client";
import { saveCsv } from "../../../../ui/csv";
import { Stake } from "../../../../ui/marks";
import { Scroll } from "../../../../ui/Scroll";
import { Worked } from "../../../../ui/working";
import { useStage } from "../../TrialFrame";

type Found = Schemas["MoneyOut"];

function useStakes() {
  const { trial } = useStage();
  const positions = new Map(trial.treatments.map((treatment) => [treatment.letter, treatment.position]));
  return (letter: string) => <Stake letter={letter} position={positions.get(letter) ?? 0} />;
}

/** Yield × price less what comes with the yield and what comes with the area, for every treatment's mean. */
export function Budgets({ money }: { money: Found }) {
  const stake = useStakes();
  return (
    <section aria-label="Budget of each treatment">
      <h3>Budget of each treatment</h3>
      <Scroll label="Budget of each treatment">
        <table className="figures">
          <thead>
            <tr>
              <th>Treatment</th>
              <th className="num">Yield</th>
              <th className="num">Income</th>
              <th className="num">With the yield</th>
              <th className="num">By area</th>
              <th>of which</th>
              <th className="num">Net return</th>
            </tr>
          </thead>
          <tbody>
            {money.treatments.map((treatment) => (
              <tr key={treatment.treatment_id}>
                <td>
                  {stake(treatment.letter)} {treatment.name}
                  {treatment.is_control && <span className="muted"> control</span>}
                </td>
                <td className="num">{treatment.yield_.text}</td>
                <td className="num">{treatment.income.text}</td>
                <td className="num">{treatment.by_yield.text}</td>
                <td className="num">{treatment.by_area.text}</td>
                <td className="muted text-sm">
                  {treatment.parts.map((part) => `${part.label} ${part.text}`).join(", ") || "no costs typed"}
                </td>
                <td className="num font-semibold">{treatment.net.text}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Scroll>
    </section>
  );
}

/** The partial budget against the control, and what would make both equal. */
export function Against({ money }: { money: Found }) {
  const stake = useStakes();
  if (!money.partial.length) return null;
  return (
    <section aria-label="Against the control" className="mt-3">
      <h3>Against the control</h3>
      <Scroll label="Against the control">
        <table className="figures">
          <thead>
            <tr>
              <th>Treatment</th>
              <th className="num">Extra income</th>
              <th className="num">Extra cost</th>
              <th className="num">Net gain</th>
              <th className="num">Return on extra money</th>
              <th className="num">Breaks even from</th>
              <th className="num">Pays at a price</th>
              <th className="num">May cost up to</th>
            </tr>
          </thead>
          <tbody>
            {money.partial.map((item) => (
              <tr key={item.treatment_id}>
                <td>
                  {stake(item.letter)} {item.name}
                </td>
                <td className="num">{item.extra_income.text}</td>
                <td className="num">{item.extra_cost.text}</td>
                <td className="num font-semibold">
                  <Worked working={item.working}>{item.net_gain.text}</Worked>
                </td>
                <td className="num">{item.return_on_cost}</td>
                <td className="num">{item.even_gain.text}</td>
                <td className="num">{item.even_price}</td>
                <td className="num">{item.even_cost.text}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Scroll>
      <p className="muted text-sm">
        Means of the strips. “Breaks even from” is the yield gained that pays for the extra cost; “may cost up to” is
        the extra cost that the yield gained would just carry.
      </p>
    </section>
  );
}

/** Treatments by rising cost: which are dominated, and what each step more earns. */
export function Marginal({ money }: { money: Found }) {
  const stake = useStakes();
  const { marginal } = money;
  if (!marginal.rows.length) return null;
  return (
    <section aria-label="Step by step" className="mt-3">
      <h3>Step by step, from the cheapest</h3>
      <table className="figures max-w-3xl">
        <thead>
          <tr>
            <th>Treatment</th>
            <th className="num">Costs by area</th>
            <th className="num">Net return</th>
            <th className="num">Rate of the step</th>
            <th>Said of it</th>
          </tr>
        </thead>
        <tbody>
          {marginal.rows.map((row) => (
            <tr key={row.letter} className={row.recommended ? "font-semibold" : ""}>
              <td>
                {stake(row.letter)} {row.name}
              </td>
              <td className="num">{row.cost.text}</td>
              <td className="num">{row.net.text}</td>
              <td className="num">{row.rate}</td>
              <td>{row.said}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p>{marginal.words}</p>
    </section>
  );
}

/** Every strip's own budget, for the colleague who checks. */
export function StripBudgets({ money }: { money: Found }) {
  const stake = useStakes();
  const save = () =>
    saveCsv("budgets.csv", [
      ["strip", "block", "treatment", "yield", "income", "with the yield", "by area", "net", "seed by rate sown"],
      ...money.strips.map((strip) => [
        strip.order,
        strip.block,
        strip.letter,
        strip.yield_.value,
        strip.income.value,
        strip.by_yield.value,
        strip.by_area.value,
        strip.net.value,
        strip.seed_sown ? "yes" : "no",
      ]),
    ]);
  return (
    <details className="mt-4">
      <summary className="cursor-pointer font-semibold">Budget of every strip ({money.strips.length})</summary>
      <Scroll label="Budget of every strip">
        <table className="figures mt-1">
          <thead>
            <tr>
              <th className="num">Strip</th>
              <th className="num">Block</th>
              <th>Treatment</th>
              <th className="num">Yield</th>
              <th className="num">Income</th>
              <th className="num">With the yield</th>
              <th className="num">By area</th>
              <th>Seed</th>
              <th className="num">Net return</th>
            </tr>
          </thead>
          <tbody>
            {money.strips.map((strip) => (
              <tr key={strip.strip_id}>
                <td className="num">{strip.order}</td>
                <td className="num">{strip.block}</td>
                <td>{stake(strip.letter)}</td>
                <td className="num">{strip.yield_.text}</td>
                <td className="num">{strip.income.text}</td>
                <td className="num">{strip.by_yield.text}</td>
                <td className="num">{strip.by_area.text}</td>
                <td>{strip.seed_sown ? "by the rate sown" : "as planned"}</td>
                <td className="num font-semibold">
                  <Worked working={strip.working}>{strip.net.text}</Worked>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </Scroll>
      <button type="button" className="plain no-print mt-1" onClick={save}>
        Save budgets as CSV
      </button>
    </details>
  );
}
