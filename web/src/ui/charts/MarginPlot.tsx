import { scaleLinear } from "d3-scale";
import { line } from "d3-shape";
import type { Schemas } from "../../api/client";

type Props = { margin: Schemas["MarginOut"] };
const WIDTH = 560;
const HEIGHT = 220;
const BOX = { left: 46, right: 150, top: 14, bottom: 36 };

/** What can be detected falls with the number of blocks; what matters is a line. Right of where they cross, the trial can tell. */
export function MarginPlot({ margin }: Props) {
  const judged = margin.rows.filter((row) => row.margin_pct);
  const hardest = [...margin.rows]
    .filter((row) => !["interaction", "sub_within"].includes(row.key))
    .sort((a, b) => b.least_pct - a.least_pct)[0];
  if (margin.curve.length < 2 || !hardest) return null;
  const margins = [...new Map(judged.map((row) => [row.margin_pct?.toFixed(3), row])).values()];
  const cap = Math.max(hardest.least_pct * 1.6, ...margins.map((row) => (row.margin_pct ?? 0) * 1.3), 2);
  const x = scaleLinear()
    .domain([2, Math.max(...margin.curve.map((curve) => curve.blocks))])
    .range([BOX.left, WIDTH - BOX.right]);
  const y = scaleLinear()
    .domain([0, cap])
    .range([HEIGHT - BOX.bottom, BOX.top]);
  const shown = margin.curve.filter((curve) => curve.least_pct <= cap);
  const path = line<Schemas["CurveOut"]>()
    .x((curve) => x(curve.blocks))
    .y((curve) => y(curve.least_pct))(shown);
  const last = shown.at(-1);
  const here = margin.curve.find((curve) => curve.blocks === margin.blocks);
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="w-full max-w-[38rem]"
      role="img"
      aria-label={`Difference that can be detected by number of blocks, in percent of the yield; with ${margin.blocks} blocks ${hardest.least_pct.toFixed(1)} percent`}
    >
      {y.ticks(5).map((tick) => (
        <g key={tick}>
          <path d={`M${BOX.left} ${y(tick)}H${WIDTH - BOX.right}`} stroke="var(--color-base-300)" />
          <text x={BOX.left - 6} y={y(tick) + 4} textAnchor="end" fontSize="11" fill="currentColor">
            {tick} %
          </text>
        </g>
      ))}
      {x
        .ticks(6)
        .filter((tick) => Number.isInteger(tick))
        .map((tick) => (
          <text
            key={tick}
            x={x(tick)}
            y={HEIGHT - BOX.bottom + 15}
            textAnchor="middle"
            fontSize="11"
            fill="currentColor"
          >
            {tick}
          </text>
        ))}
      <text x={(BOX.left + WIDTH - BOX.right) / 2} y={HEIGHT - 6} textAnchor="middle" fontSize="11" fill="currentColor">
        blocks
      </text>
      {path && <path d={path} fill="none" stroke="currentColor" strokeWidth="2.2" />}
      {last && (
        <text
          x={x(last.blocks) + 6}
          y={y(last.least_pct) + (margins.length ? -6 : 4)}
          fontSize="11"
          fill="currentColor"
        >
          can be detected
        </text>
      )}
      {margins.map((row, place) => (
        <g key={row.label}>
          <path
            d={`M${BOX.left} ${y(row.margin_pct ?? 0)}H${WIDTH - BOX.right}`}
            stroke="currentColor"
            strokeWidth="1.4"
            strokeDasharray="5 4"
          />
          <text x={WIDTH - BOX.right + 6} y={y(row.margin_pct ?? 0) + 4 + place * 12} fontSize="11" fill="currentColor">
            {margins.length > 1 ? `pays: ${row.label}` : "what matters"}
          </text>
        </g>
      ))}
      {here && (
        <g>
          <path
            d={`M${x(here.blocks)} ${HEIGHT - BOX.bottom}V${y(Math.min(here.least_pct, cap))}`}
            stroke="var(--color-accent)"
            strokeWidth="2"
          />
          <circle
            cx={x(here.blocks)}
            cy={y(Math.min(here.least_pct, cap))}
            r="6"
            fill="var(--color-accent)"
            stroke="currentColor"
            strokeWidth="1.5"
          />
          <text
            x={x(here.blocks) + 10}
            y={y(Math.min(here.least_pct, cap)) - 8}
            fontSize="12"
            fontWeight="600"
            fill="currentColor"
          >
            {here.least_pct.toFixed(1)} %
          </text>
        </g>
      )}
    </svg>
  );
}
