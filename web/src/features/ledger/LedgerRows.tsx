import { scaleLinear } from "d3-scale";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";

type Entry = Schemas["LedgerEntryOut"];

const WIDTH = 200;
const HEIGHT = 26;

/** One line a comparison: what was tried, its gain with the interval on a scale that all share, the call, the yield beside. */
export function LedgerRows({ rows, unit, span }: { rows: Entry[]; unit: string; span: number[] }) {
  const x = scaleLinear()
    .domain(span)
    .nice(4)
    .range([22, WIDTH - 22]);
  return (
    <div className="mt-3 overflow-x-auto">
      <table className="figures">
        <thead>
          <tr>
            <th className="num">Rank</th>
            <th>Tried</th>
            <th>
              <span className="sr-only">Gain with its interval, </span>
              <svg width={WIDTH} height="16" aria-hidden="true">
                {x.ticks(4).map((tick) => (
                  <text key={tick} x={x(tick)} y="12" textAnchor="middle" fontSize="11" fill="currentColor">
                    {tick}
                  </text>
                ))}
              </svg>
            </th>
            <th className="num">Gain, {unit}</th>
            <th>Called</th>
            <th className="num">Yield</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.key}>
              <td className="num">{row.rank ?? ""}</td>
              <td>
                <span className="font-semibold">{row.name}</span>
                <br />
                <Link className="worked text-sm" to={`/trials/${row.trial_id}/verdict?sheet=money`}>
                  {row.title}
                </Link>{" "}
                <span className="muted text-sm">
                  {row.crop_name}, {row.season}
                  {row.field && `, ${row.field}`}
                </span>
                {row.said && <p className="text-sm">{row.said}</p>}
              </td>
              <td>{row.net && <Interval row={row} x={x} />}</td>
              <td className="num">
                {row.net && <b>{row.net.text.split(" ")[0]}</b>}
                {row.lower && row.upper && (
                  <span className="muted block text-sm">
                    {row.lower.text.split(" ")[0]} to {row.upper.text.split(" ")[0]}
                  </span>
                )}
              </td>
              <td className="whitespace-nowrap">
                {row.call_words}
                {row.chance && <span className="muted block text-sm">better off: {row.chance}</span>}
              </td>
              <td className="num whitespace-nowrap">
                {row.yield_}
                {row.yield_call && <span className="muted block text-sm">{row.yield_call}</span>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Interval({ row, x }: { row: Entry; x: (value: number) => number }) {
  if (!row.net) return null;
  const middle = HEIGHT / 2;
  return (
    <svg
      width={WIDTH}
      height={HEIGHT}
      role="img"
      aria-label={row.lower && row.upper ? `${row.lower.text} to ${row.upper.text}` : "one strip each, no interval"}
    >
      <line x1={x(0)} x2={x(0)} y1="0" y2={HEIGHT} stroke="currentColor" strokeWidth="1" />
      {row.lower && row.upper && (
        <path
          d={`M${x(row.lower.value)} ${middle - 5}v10m0 -5H${x(row.upper.value)}m0 -5v10`}
          stroke="currentColor"
          strokeWidth="2"
          fill="none"
        />
      )}
      <circle
        cx={x(row.net.value)}
        cy={middle}
        r="4.5"
        fill={row.standing === "look" ? "var(--color-base-100)" : "currentColor"}
        stroke="currentColor"
        strokeWidth="1.5"
      />
    </svg>
  );
}
