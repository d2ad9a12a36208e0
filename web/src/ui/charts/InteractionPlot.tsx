import { scalePoint } from "d3-scale";
import type { Schemas } from "../../api/client";
import { Axis, scaleOver } from "./axis";

const WIDTH = 760;
const TOP = 10;
const ROW = 24;
const DASHES = ["", "7 4", "2 4", "9 3 2 3", "4 4", "12 4"];

/** Means of every combination: one row a level, one dash a line, so that unlike slopes show as lines that part. */
export function InteractionPlot({ interaction, unit }: { interaction: Schemas["InteractionOut"]; unit: string }) {
  const points = interaction.lines.flatMap((line) => line.points);
  const labels = interaction.lines[0]?.points.map((point) => point.label) ?? [];
  const x = scaleOver(points.flatMap((point) => [point.lower.value, point.upper.value, point.mean.value]));
  const height = Math.max(2, labels.length) * ROW * Math.max(2, interaction.lines.length * 0.8);
  const y = scalePoint<string>()
    .domain(labels)
    .range([TOP + 14, TOP + height - 14])
    .padding(0.2);
  const nudge = (place: number) => (place - (interaction.lines.length - 1) / 2) * 11;
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${TOP + height + 44}`}
      className="block h-auto w-full max-w-[760px]"
      role="img"
      aria-label={`Means of ${interaction.title}: ${interaction.lines
        .map((line) => `${line.label}: ${line.points.map((point) => `${point.label} ${point.mean.text}`).join(", ")}`)
        .join("; ")}`}
    >
      {labels.map((label) => (
        <text key={label} x={200} y={(y(label) ?? 0) + 5} textAnchor="end" fill="currentColor" fontSize="14">
          {label}
        </text>
      ))}
      {interaction.lines.map((line, place) => {
        const dash = DASHES[place % DASHES.length];
        const at = (label: string) => (y(label) ?? 0) + nudge(place);
        const last = line.points[line.points.length - 1];
        return (
          <g key={line.label} stroke="currentColor" fill="none" strokeWidth="2">
            <path
              d={line.points.map((p, i) => `${i ? "L" : "M"}${x(p.mean.value)} ${at(p.label)}`).join("")}
              strokeDasharray={dash}
            />
            {line.points.map((point) => (
              <g key={point.label}>
                <path
                  d={`M${x(point.lower.value)} ${at(point.label)}H${x(point.upper.value)}`}
                  strokeWidth="1.2"
                  opacity="0.6"
                />
                <circle cx={x(point.mean.value)} cy={at(point.label)} r="4" fill="currentColor" stroke="none">
                  <title>{`${line.label}, ${point.label}: ${point.mean.text}`}</title>
                </circle>
              </g>
            ))}
            {last && (
              <g transform={`translate(${WIDTH - 142} ${TOP + 16 + place * 20})`} stroke="none">
                <path d="M0 -4H30" stroke="currentColor" strokeDasharray={dash} />
                <text x="36" fill="currentColor" fontSize="13">
                  {line.label}
                </text>
              </g>
            )}
          </g>
        );
      })}
      <Axis x={x} y={TOP + height} label={unit} />
    </svg>
  );
}
