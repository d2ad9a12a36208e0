import type { Schemas } from "../../api/client";
import { Axis, LEFT, scaleOver, TOP, WIDTH } from "./axis";

type Estimates = Schemas["EstimatesOut"];
export type Row = {
  id: string;
  letter: string;
  name: string;
  position: number;
  strips: { order: number; estimate: NonNullable<Estimates["strips"][number]["estimate"]> }[];
  whole: Estimates["treatments"][number] | undefined;
};
const LINE = 9;

/** Every sampled strip as a ring with its own interval, under each treatment's mean with the interval over strips. */
export function EstimatePlot({ rows, unit }: { rows: Row[]; unit: string }) {
  const values = rows.flatMap((row) => [
    ...row.strips.flatMap((strip) => [strip.estimate.lower.value, strip.estimate.upper.value]),
    ...(row.whole?.lower && row.whole.upper ? [row.whole.lower.value, row.whole.upper.value] : []),
  ]);
  const x = scaleOver(values);
  const tall = (row: Row) => Math.max(row.strips.length * LINE + 30, 44);
  let top = TOP;
  const placed = rows.map((row) => {
    const at = top;
    top += tall(row);
    return { row, at };
  });
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${top + 44}`}
      className="block h-auto w-full max-w-[760px]"
      role="img"
      aria-label={`Estimates by treatment: ${rows.map((row) => `${row.letter} ${row.whole?.mean?.text ?? "not sampled"}`).join(", ")}`}
    >
      {placed.map(({ row, at }) => (
        <g key={row.id} className={`ink-${(row.position % 8) + 1}`}>
          <line x1="0" x2={WIDTH} y1={at} y2={at} stroke="var(--color-base-300)" />
          <text x={LEFT - 10} y={at + 21} textAnchor="end" fill="currentColor" fontSize="14">
            <tspan fontWeight="700">{row.letter}</tspan> {row.name}
          </text>
          {row.whole?.lower && row.whole.upper && (
            <path
              d={`M${x(row.whole.lower.value)} ${at + 9}v14m0 -7H${x(row.whole.upper.value)}m0 -7v14`}
              stroke="var(--ink)"
              strokeWidth="2.5"
              fill="none"
            />
          )}
          {row.whole?.mean && (
            <>
              <path
                d={`M${x(row.whole.mean.value) - 7} ${at + 16}l7 -8 7 8 -7 8z`}
                fill="var(--paper)"
                stroke="var(--ink)"
                strokeWidth="2.5"
              />
              <text x={WIDTH - 142} y={at + 21} fill="currentColor" fontSize="14" fontWeight="600">
                {row.whole.mean.text}
              </text>
            </>
          )}
          {row.strips.map((strip, place) => {
            const y = at + 32 + place * LINE;
            return (
              <g key={strip.order} stroke="currentColor" opacity="0.7">
                <title>
                  Strip {strip.order}: {strip.estimate.value.text} ({strip.estimate.lower.text} to{" "}
                  {strip.estimate.upper.text})
                </title>
                <line x1={x(strip.estimate.lower.value)} x2={x(strip.estimate.upper.value)} y1={y} y2={y} />
                <circle cx={x(strip.estimate.value.value)} cy={y} r="3" fill="var(--paper)" />
              </g>
            );
          })}
        </g>
      ))}
      <Axis x={x} y={top} label={`estimated yield, ${unit}; thin: single strips, bold: treatments`} />
    </svg>
  );
}
