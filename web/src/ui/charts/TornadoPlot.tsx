import type { Schemas } from "../../api/client";
import { Axis, RIGHT, RowLabel, scaleOver, TOP, WIDTH } from "./axis";

const ROW = 46;

/** What moves a gain: one bar for each thing, from its low to its high end, the widest on top; nought is where nothing pays. */
export function TornadoPlot({ bars, unit, name }: { bars: Schemas["BarOut"][]; unit: string; name: string }) {
  const x = scaleOver([0, ...bars.flatMap((bar) => [bar.at_low.value, bar.at_high.value])]);
  const bottom = TOP + bars.length * ROW;
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${bottom + 44}`}
      className="block h-auto w-full max-w-[760px]"
      role="img"
      aria-label={`What moves ${name}: ${bars.map((bar) => `${bar.name} ${bar.at_low.text} to ${bar.at_high.text}`).join(", ")}`}
    >
      {bars.map((bar, place) => {
        const y = TOP + place * ROW + ROW / 2;
        const [from, to] = [bar.at_low, bar.at_high].sort((a, b) => a.value - b.value) as [
          typeof bar.at_low,
          typeof bar.at_low,
        ];
        const width = Math.max(x(to.value) - x(from.value), 2);
        return (
          <g key={bar.name}>
            <RowLabel y={y} strong={bar.name} below={`${bar.low} to ${bar.high}`} />
            <rect
              x={x(from.value)}
              y={y - 9}
              width={width}
              height="18"
              fill={bar.turns ? "none" : "currentColor"}
              fillOpacity="0.25"
              stroke="currentColor"
              strokeWidth="1.5"
            />
            <text x={WIDTH - RIGHT + 8} y={y + 1} fill="currentColor" fontSize="12">
              {from.text}
            </text>
            <text x={WIDTH - RIGHT + 8} y={y + 15} fill="currentColor" fontSize="12">
              {to.text}
            </text>
          </g>
        );
      })}
      <line x1={x(0)} x2={x(0)} y1={TOP} y2={bottom} stroke="currentColor" strokeWidth="1.5" />
      <Axis
        x={x}
        y={bottom}
        label={`gain in net return, ${unit}${bars.some((bar) => bar.turns) ? "; hollow where it turns to a loss" : ""}`}
      />
    </svg>
  );
}
