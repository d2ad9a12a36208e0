import type { Schemas } from "../../api/client";
import { Axis, RowLabel, scaleOver, TOP, WIDTH } from "./axis";

type Row = { label: string; below: string; whole: boolean; seriesDifference: Schemas["SeriesDifferenceOut"] };
const ROW = 34;

/** One comparison in every site-year and over all of them, on one scale. */
export function ForestPlot({ rows, unit, name, of }: { rows: Row[]; unit: string; name: string; of: string }) {
  const x = scaleOver([
    0,
    ...rows.flatMap(({ seriesDifference }) => [
      seriesDifference.estimate.value,
      ...(seriesDifference.lower && seriesDifference.upper
        ? [seriesDifference.lower.value, seriesDifference.upper.value]
        : []),
    ]),
  ]);
  const bottom = TOP + rows.length * ROW;
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${bottom + 44}`}
      className="block h-auto w-full max-w-[760px]"
      role="img"
      aria-label={`${name}: ${rows.map((row) => `${row.label} ${row.seriesDifference.estimate.text}`).join(", ")}`}
    >
      {rows.map((row, place) => {
        const y = TOP + place * ROW + ROW / 2;
        const { seriesDifference } = row;
        return (
          <g key={row.label}>
            {row.whole && <line x1={20} x2={WIDTH} y1={y - ROW / 2} y2={y - ROW / 2} stroke="currentColor" />}
            <RowLabel y={y} strong={row.label} below={row.below} />
            {seriesDifference.lower && seriesDifference.upper && (
              <path
                d={`M${x(seriesDifference.lower.value)} ${y - 6}v12m0 -6H${x(seriesDifference.upper.value)}m0 -6v12`}
                stroke="currentColor"
                strokeWidth={row.whole ? 3.5 : 1.8}
                fill="none"
              />
            )}
            {row.whole ? (
              <rect x={x(seriesDifference.estimate.value) - 4} y={y - 9} width="8" height="18" fill="currentColor" />
            ) : (
              <circle cx={x(seriesDifference.estimate.value)} cy={y} r="4.5" fill="currentColor" />
            )}
            <text
              x={WIDTH - 142}
              y={seriesDifference.call_words ? y : y + 5}
              fill="currentColor"
              fontSize="14"
              fontWeight="600"
            >
              {seriesDifference.estimate.text}
            </text>
            {seriesDifference.call_words && (
              <text x={WIDTH - 142} y={y + 14} fill="currentColor" fontSize="12">
                {seriesDifference.call_words}
              </text>
            )}
          </g>
        );
      })}
      <line x1={x(0)} x2={x(0)} y1={TOP} y2={bottom} stroke="currentColor" strokeWidth="1.5" />
      <Axis x={x} y={bottom} label={`difference of ${of}, ${unit}`} />
    </svg>
  );
}
