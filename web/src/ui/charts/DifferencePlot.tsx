import type { Schemas } from "../../api/client";
import { Axis, LEFT, ROW, RowLabel, scaleOver, TOP, WIDTH } from "./axis";

/** Differences to the control with intervals, over the band in which a difference does not matter. */
export function DifferencePlot({ analysis }: { analysis: Schemas["AnalysisOut"] }) {
  const rows = analysis.differences;
  if (!rows.length) return null;
  const values = rows.flatMap((row) => [
    0,
    row.estimate.value,
    ...(row.lower && row.upper ? [row.lower.value, row.upper.value] : []),
    ...(row.margin ? [row.margin.value, -row.margin.value] : []),
  ]);
  const x = scaleOver(values);
  const bottom = TOP + rows.length * ROW;
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${bottom + 44}`}
      className="block h-auto w-full max-w-[760px]"
      role="img"
      aria-label={`Differences: ${rows.map((row) => row.sentence).join(" ")}`}
    >
      <defs>
        <pattern id="margin" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line y2="7" stroke="currentColor" strokeWidth="1" opacity="0.35" />
        </pattern>
      </defs>
      {rows.map((row, place) => {
        const y = TOP + place * ROW + ROW / 2;
        return (
          <g key={row.key}>
            {row.margin && (
              <rect
                x={x(-row.margin.value)}
                width={x(row.margin.value) - x(-row.margin.value)}
                y={y - ROW / 2 + 3}
                height={ROW - 6}
                fill="url(#margin)"
                stroke="currentColor"
                strokeWidth="0.5"
              >
                <title>Within {row.margin.text} a difference does not matter</title>
              </rect>
            )}
            {row.factor ? (
              <RowLabel
                y={y}
                strong={row.letter}
                below={`against ${row.against}`}
                under={row.within && `at ${row.within}`}
              />
            ) : (
              <text x={LEFT - 10} y={y + 4} textAnchor="end" fill="currentColor" fontSize="14">
                <tspan fontWeight="700">{row.letter}</tspan> against {row.against}
              </text>
            )}
            {row.lower && row.upper && (
              <path
                d={`M${x(row.lower.value)} ${y - 7}v14m0 -7H${x(row.upper.value)}m0 -7v14`}
                stroke="currentColor"
                strokeWidth="2.5"
                fill="none"
              />
            )}
            <circle cx={x(row.estimate.value)} cy={y} r="5" fill="currentColor" />
            <text x={WIDTH - 142} y={y} fill="currentColor" fontSize="14" fontWeight="600">
              {row.estimate.text}
            </text>
            <text x={WIDTH - 142} y={y + 15} fill="currentColor" fontSize="12.5">
              {row.call_words}
            </text>
          </g>
        );
      })}
      <line x1={x(0)} x2={x(0)} y1={TOP} y2={bottom} stroke="currentColor" strokeWidth="1.5" />
      <Axis
        x={x}
        y={bottom}
        label={`difference of ${analysis.response}, ${analysis.unit}; hatched: too small to matter`}
      />
    </svg>
  );
}
