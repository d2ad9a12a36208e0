import type { Schemas } from "../../api/client";
import { Axis, LEFT, ROW, RowLabel, scaleOver, TOP, WIDTH } from "./axis";

type Props = { analysis: Schemas["AnalysisOut"]; positions: Map<string, number> };

/** Means with intervals, every strip as an open ring behind them, labelled where they stand. */
export function MeansPlot({ analysis, positions }: Props) {
  const { means } = analysis;
  const values = means.flatMap((mean) => [
    mean.mean.value,
    ...(mean.lower && mean.upper ? [mean.lower.value, mean.upper.value] : []),
    ...mean.raw.map((raw) => raw.value.value),
  ]);
  const x = scaleOver(values);
  const bottom = TOP + means.length * ROW;
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${bottom + 44}`}
      className="block h-auto w-full max-w-[760px]"
      role="img"
      aria-label={`Means of ${analysis.response} by treatment: ${means.map((mean) => `${mean.letter} ${mean.mean.text}`).join(", ")}`}
    >
      {means.map((mean, row) => {
        const y = TOP + row * ROW + ROW / 2;
        return (
          <g key={mean.treatment_id} className={`ink-${((positions.get(mean.treatment_id) ?? 0) % 8) + 1}`}>
            <line x1={LEFT} x2={x.range()[1]} y1={y} y2={y} stroke="var(--color-base-300)" strokeDasharray="1 5" />
            <RowLabel
              y={y}
              strong={mean.letter}
              beside={mean.name.split(" · ")[0]}
              below={[...mean.name.split(" · ").slice(1), ...(mean.is_control ? ["control"] : [])].join(" · ")}
            />
            {mean.raw.map((raw) => (
              <circle
                key={raw.strip_id}
                cx={x(raw.value.value)}
                cy={y}
                r="4.5"
                fill="none"
                stroke="currentColor"
                opacity="0.55"
              >
                <title>
                  Strip {raw.order}: {raw.value.text}
                </title>
              </circle>
            ))}
            {mean.lower && mean.upper && (
              <path
                d={`M${x(mean.lower.value)} ${y - 7}v14m0 -7H${x(mean.upper.value)}m0 -7v14`}
                stroke="var(--ink)"
                strokeWidth="2.5"
                fill="none"
              />
            )}
            <rect x={x(mean.mean.value) - 4} y={y - 9} width="8" height="18" fill="var(--ink)" />
            <text x={WIDTH - 142} y={y + 5} fill="currentColor" fontSize="14" fontWeight="600">
              {mean.mean.text} {mean.letters ?? ""}
            </text>
          </g>
        );
      })}
      <Axis x={x} y={bottom} label={`${analysis.response}, ${analysis.unit}`} />
    </svg>
  );
}
