import type { ScaleLinear } from "d3-scale";
import { scaleLinear } from "d3-scale";

export const LEFT = 210;
export const RIGHT = 150;
export const WIDTH = 760;
export const ROW = 42;
export const TOP = 8;

/** A scale over all values drawn, with a little air. */
export function scaleOver(values: number[]): ScaleLinear<number, number> {
  const low = Math.min(...values);
  const high = Math.max(...values);
  const air = (high - low) * 0.06 || Math.abs(high) * 0.05 || 1;
  return scaleLinear()
    .domain([low - air, high + air])
    .range([LEFT, WIDTH - RIGHT])
    .nice(6);
}

export function Axis({ x, y, label }: { x: ScaleLinear<number, number>; y: number; label: string }) {
  const [from = 0, to = 0] = x.range();
  return (
    <g fontSize="13">
      <line x1={from} x2={to} y1={y} y2={y} stroke="currentColor" />
      {x.ticks(6).map((tick) => (
        <g key={tick} transform={`translate(${x(tick)} ${y})`}>
          <line y2="5" stroke="currentColor" />
          <text y="19" textAnchor="middle" fill="currentColor">
            {x.tickFormat(6)(tick)}
          </text>
        </g>
      ))}
      <text x={(from + to) / 2} y={y + 37} textAnchor="middle" fill="currentColor">
        {label}
      </text>
    </g>
  );
}

/** What a row is, right-aligned before the scale: one line, or up to three where there is more to say. */
export function RowLabel({
  y,
  strong,
  beside = "",
  below = "",
  under = "",
}: {
  y: number;
  strong: string;
  beside?: string;
  below?: string;
  under?: string;
}) {
  return (
    <text x={LEFT - 10} textAnchor="end" fill="currentColor" fontSize="14">
      <tspan x={LEFT - 10} y={under ? y - 9 : below ? y - 2 : y + 4}>
        <tspan fontWeight="700">{strong}</tspan> {beside}
      </tspan>
      {below && (
        <tspan x={LEFT - 10} y={under ? y + 4 : y + 14} fontSize="12">
          {below}
        </tspan>
      )}
      {under && (
        <tspan x={LEFT - 10} y={y + 17} fontSize="12">
          {under}
        </tspan>
      )}
    </text>
  );
}

/** Dotted lines across at the values of the scale, each with its number before it. */
export function LevelLines({
  y,
  ticks,
  left,
  right,
}: {
  y: ScaleLinear<number, number>;
  ticks: number;
  left: number;
  right: number;
}) {
  return (
    <>
      {y.ticks(ticks).map((tick) => (
        <g key={tick}>
          <line x1={left} x2={right} y1={y(tick)} y2={y(tick)} stroke="var(--color-base-300)" strokeDasharray="1 5" />
          <text x={left - 8} y={y(tick) + 4} textAnchor="end" fontSize="12" fill="currentColor">
            {tick}
          </text>
        </g>
      ))}
    </>
  );
}
