import { scaleLinear } from "d3-scale";
import type { Schemas } from "../../api/client";

type Point = Schemas["ResidualOut"];
const WIDTH = 252;
const HEIGHT = 150;
const LEFT = 44;

const VIEWS: { title: string; across: (point: Point) => number; label: string }[] = [
  { title: "Against the fitted value", across: (point) => point.fitted, label: "fitted" },
  { title: "Along the field", across: (point) => point.position, label: "strip" },
  { title: "By block", across: (point) => point.block, label: "block" },
];

/** What the model leaves of every strip, looked at three ways. */
export function ResidualPlots({ points, unit }: { points: Point[]; unit: string }) {
  const most = Math.max(...points.map((point) => Math.abs(point.residual)), 1e-9) * 1.1;
  const y = scaleLinear()
    .domain([-most, most])
    .range([HEIGHT - 26, 8]);
  return (
    <div className="flex flex-wrap gap-4">
      {VIEWS.map((view) => {
        const values = points.map(view.across);
        const low = Math.min(...values);
        const high = Math.max(...values);
        const air = (high - low) * 0.08 || 1;
        const x = scaleLinear()
          .domain([low - air, high + air])
          .range([LEFT, WIDTH - 8]);
        return (
          <figure key={view.title}>
            <figcaption className="text-sm font-semibold">{view.title}</figcaption>
            <svg
              viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
              width={WIDTH}
              role="img"
              aria-label={`Residuals ${view.title.toLowerCase()}, ${points.length} strips, largest ${most.toPrecision(2)} ${unit}`}
            >
              {y.ticks(4).map((tick) => (
                <g key={tick} fontSize="11">
                  <line x1={LEFT} x2={WIDTH - 8} y1={y(tick)} y2={y(tick)} stroke="var(--color-base-300)" />
                  <text x={LEFT - 5} y={y(tick) + 4} textAnchor="end" fill="currentColor">
                    {y.tickFormat(4)(tick)}
                  </text>
                </g>
              ))}
              <line x1={LEFT} x2={WIDTH - 8} y1={y(0)} y2={y(0)} stroke="currentColor" />
              {points.map((point) => (
                <circle
                  key={point.order}
                  cx={x(view.across(point))}
                  cy={y(point.residual)}
                  r="3.5"
                  fill="none"
                  stroke="currentColor"
                >
                  <title>{`Strip ${point.order}, block ${point.block}`}</title>
                </circle>
              ))}
              {x
                .ticks(4)
                .filter((tick) => view.label === "fitted" || Number.isInteger(tick))
                .map((tick) => (
                  <text key={tick} x={x(tick)} y={HEIGHT - 12} textAnchor="middle" fontSize="11" fill="currentColor">
                    {x.tickFormat(4)(tick)}
                  </text>
                ))}
              <text x={(LEFT + WIDTH) / 2} y={HEIGHT - 1} textAnchor="middle" fontSize="11" fill="currentColor">
                {view.label === "fitted" ? unit : view.label}
              </text>
            </svg>
          </figure>
        );
      })}
    </div>
  );
}
