import { scaleLinear } from "d3-scale";
import { line } from "d3-shape";
import type { Schemas } from "../../api/client";

type Curves = Schemas["ResponseCurvesOut"];
const WIDTH = 760;
const HEIGHT = 320;
const LEFT = 64;
const RIGHT = 150;
const DASHES = ["", "7 4", "2 4", "9 3 2 3", "12 4"];

/** A curve with its band, where it is best, and a stretch of amounts: firm where it is shown, light where it is estimated. */
export type Drawn = {
  level: string;
  words: string;
  band: Schemas["BandPointOut"][];
  best: number | null;
  stretches: { from: number | null; to: number | null; firm: boolean }[];
};

/** Strips freed of their block, the curve with its band, and where it is best. */
export function CurvePlot({ responseCurves, shown }: { responseCurves: Curves; shown: Drawn[] }) {
  const points = responseCurves.points;
  const xs = shown.flatMap((curve) => curve.band.map((point) => point.x));
  const ys = [
    ...shown.flatMap((curve) => curve.band.flatMap((point) => [point.lower, point.upper])),
    ...points.map((point) => point.y),
  ].filter(Number.isFinite);
  const air = (Math.max(...ys) - Math.min(...ys)) * 0.05 || 1;
  const wide = (Math.max(...xs) - Math.min(...xs)) * 0.04 || 1;
  const x = scaleLinear()
    .domain([Math.min(...xs) - wide, Math.max(...xs) + wide])
    .range([LEFT, WIDTH - RIGHT]);
  const y = scaleLinear()
    .domain([Math.min(...ys) - air, Math.max(...ys) + air])
    .range([HEIGHT - 44, 8])
    .nice(5);
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="block h-auto w-full max-w-[760px]"
      role="img"
      aria-label={shown.map((curve) => `${curve.level || responseCurves.factor}: ${curve.words}`).join(" ")}
    >
      {y.ticks(5).map((tick) => (
        <g key={tick} fontSize="13">
          <line x1={LEFT} x2={WIDTH - RIGHT} y1={y(tick)} y2={y(tick)} stroke="var(--color-base-300)" />
          <text x={LEFT - 8} y={y(tick) + 4} textAnchor="end" fill="currentColor">
            {y.tickFormat(5)(tick)}
          </text>
        </g>
      ))}
      {shown.map((curve, place) => {
        const dash = DASHES[place % DASHES.length];
        const path = line<(typeof curve.band)[number]>()
          .x((point) => x(point.x))
          .y((point) => y(point.y));
        const edge = [
          ...curve.band.map((point) => `${x(point.x)},${y(point.upper)}`),
          ...[...curve.band].reverse().map((point) => `${x(point.x)},${y(point.lower)}`),
        ];
        const end = curve.band[curve.band.length - 1];
        return (
          <g key={curve.level}>
            {shown.length === 1 && <polygon points={edge.join(" ")} fill="currentColor" opacity="0.1" />}
            <path
              d={path(curve.band) ?? ""}
              fill="none"
              stroke="currentColor"
              strokeWidth="2.2"
              strokeDasharray={dash}
            />
            {curve.best != null && shown.length === 1 && (
              <g stroke="currentColor">
                <line x1={x(curve.best)} x2={x(curve.best)} y1={8} y2={HEIGHT - 44} strokeDasharray="2 3" />
                {curve.stretches.map((stretch) => (
                  <path
                    key={String(stretch.firm)}
                    d={`M${x(stretch.from ?? x.domain()[0] ?? 0)} ${HEIGHT - 52}H${x(stretch.to ?? x.domain()[1] ?? 0)}`}
                    strokeWidth={stretch.firm ? 6 : 3}
                    opacity={stretch.firm ? 1 : 0.5}
                  />
                ))}
              </g>
            )}
            {shown.length > 1 && end && (
              <text x={x(end.x) + 12} y={y(end.y) + 4} fontSize="13" fill="currentColor">
                {curve.level}
              </text>
            )}
          </g>
        );
      })}
      {points.map((point) => (
        <circle key={point.strip} cx={x(point.x)} cy={y(point.y)} r="4" fill="none" stroke="currentColor" opacity="0.6">
          <title>{`Strip ${point.strip}${point.group && `, ${point.group}`}`}</title>
        </circle>
      ))}
      <g fontSize="13">
        <line x1={LEFT} x2={WIDTH - RIGHT} y1={HEIGHT - 44} y2={HEIGHT - 44} stroke="currentColor" />
        {x.ticks(6).map((tick) => (
          <text key={tick} x={x(tick)} y={HEIGHT - 26} textAnchor="middle" fill="currentColor">
            {x.tickFormat(6)(tick)}
          </text>
        ))}
        <text x={(LEFT + WIDTH - RIGHT) / 2} y={HEIGHT - 8} textAnchor="middle" fill="currentColor">
          {responseCurves.factor}, {responseCurves.x_unit}
        </text>
        <text x={LEFT} y={HEIGHT - 8} fill="currentColor">
          yield, {responseCurves.y_unit}
        </text>
      </g>
    </svg>
  );
}
