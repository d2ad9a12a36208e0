import type { Schemas } from "../../api/client";
import { Axis, RowLabel, scaleOver, TOP, WIDTH } from "./axis";

const ROW = 26;

/** The gain of one comparison in every block (of every year), so that one sees how it falls out. */
export function GainPlot({ risk, unit, name }: { risk: Schemas["RiskOut"]; unit: string; name: string }) {
  const x = scaleOver([0, ...risk.gains.map((one) => one.gain.value)]);
  const bottom = TOP + risk.gains.length * ROW;
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${bottom + 44}`}
      className="block h-auto w-full max-w-[760px]"
      role="img"
      aria-label={`${name}, block by block: ${risk.gains.map((one) => `${one.label} ${one.gain.text}`).join(", ")}`}
    >
      {risk.gains.map((one, place) => {
        const y = TOP + place * ROW + ROW / 2;
        return (
          <g key={one.label}>
            <RowLabel y={y} strong={one.label} />
            <line x1={x(0)} x2={x(one.gain.value)} y1={y} y2={y} stroke="currentColor" strokeWidth="2" />
            <circle
              cx={x(one.gain.value)}
              cy={y}
              r="5"
              fill={one.gain.value < 0 ? "var(--color-base-100)" : "currentColor"}
              stroke="currentColor"
              strokeWidth="2"
            />
            <text x={WIDTH - 142} y={y + 4} fill="currentColor" fontSize="13">
              {one.gain.text}
            </text>
          </g>
        );
      })}
      <line x1={x(0)} x2={x(0)} y1={TOP} y2={bottom} stroke="currentColor" strokeWidth="1.5" />
      <Axis x={x} y={bottom} label={`gain in net return, ${unit}; rings lost money`} />
    </svg>
  );
}
