import type { Schemas } from "../../api/client";
import { Axis, RowLabel, scaleOver, TOP, WIDTH } from "./axis";

const ROW = 26;

/** The gain of one comparison in every block (of every year), so that one sees how it falls out. */
export function GainPlot({ risk, unit, name }: { risk: Schemas["RiskOut"]; unit: string; name: string }) {
  const x = scaleOver([0, ...risk.gains.map((gain) => gain.gain.value)]);
  const bottom = TOP + risk.gains.length * ROW;
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${bottom + 44}`}
      className="block h-auto w-full max-w-[760px]"
      role="img"
      aria-label={`${name}, block by block: ${risk.gains.map((gain) => `${gain.label} ${gain.gain.text}`).join(", ")}`}
    >
      {risk.gains.map((gain, place) => {
        const y = TOP + place * ROW + ROW / 2;
        return (
          <g key={gain.label}>
            <RowLabel y={y} strong={gain.label} />
            <line x1={x(0)} x2={x(gain.gain.value)} y1={y} y2={y} stroke="currentColor" strokeWidth="2" />
            <circle
              cx={x(gain.gain.value)}
              cy={y}
              r="5"
              fill={gain.gain.value < 0 ? "var(--color-base-100)" : "currentColor"}
              stroke="currentColor"
              strokeWidth="2"
            />
            <text x={WIDTH - 142} y={y + 4} fill="currentColor" fontSize="13">
              {gain.gain.text}
            </text>
          </g>
        );
      })}
      <line x1={x(0)} x2={x(0)} y1={TOP} y2={bottom} stroke="currentColor" strokeWidth="1.5" />
      <Axis x={x} y={bottom} label={`gain in net return, ${unit}; rings lost money`} />
    </svg>
  );
}
