import { scaleLinear } from "d3-scale";
import { line } from "d3-shape";
import type { Schemas, Treatment } from "../../api/client";
import { LevelLines } from "./axis";

type Props = { rows: Schemas["EmergenceOut"][]; treatments: Pick<Treatment, "id" | "letter" | "name" | "position">[] };

const WIDTH = 720;
const HEIGHT = 250;
const [LEFT, RIGHT, TOP, BOTTOM] = [64, 120, 10, 40];

/** How far the whole season must reach beyond the top before the rise gets a picture of its own. */
const FAR = 3;

/** Stand over the days from sowing: the rise by itself where the season after it would flatten it, then all of it. */
export function EmergencePlot({ rows, treatments }: Props) {
  const top = Math.max(...rows.flatMap((row) => row.points.filter((point) => point.fitted).map((point) => point.day)));
  const last = Math.max(...rows.flatMap((row) => row.points.map((point) => point.day)));
  if (last <= FAR * top) return <Curves rows={rows} treatments={treatments} what="Stand over days from sowing" />;
  const early = <P extends { day: number }>(points: P[]) => points.filter((point) => point.day <= top);
  const rise = rows.map((row) => ({
    ...row,
    points: early(row.points),
    strips: row.strips.map((strip) => ({ ...strip, points: early(strip.points) })),
  }));
  return (
    <>
      <h3>Coming up</h3>
      <Curves rows={rise} treatments={treatments} what="Stand while it came up" />
      <h3 className="mt-2">What stayed</h3>
      <Curves rows={rows} treatments={treatments} what="Stand over the whole time" />
    </>
  );
}

/** Strips thin, each on its own clock; the rising curve of a treatment drawn, the counts with their intervals on it, each treatment named at the end. */
function Curves({ rows, treatments, what }: Props & { what: string }) {
  const points = rows.flatMap((row) => row.points);
  const ofStrips = rows.flatMap((row) =>
    row.strips.flatMap((strip) => strip.points.map((point) => point.counted.value)),
  );
  const most = Math.max(...points.map((point) => point.upper?.value ?? point.counted.value), ...ofStrips);
  const last = Math.max(...points.map((point) => point.day), 10);
  const x = scaleLinear([0, last * 1.02], [LEFT, WIDTH - RIGHT]);
  const y = scaleLinear([0, most * 1.05], [HEIGHT - BOTTOM, TOP]).nice();
  const draw = line<{ day: number; value: number }>(
    (item) => x(item.day),
    (item) => y(item.value),
  );
  const unit = points[0]?.counted.text.split(" ").slice(1).join(" ") ?? "";
  // beside points of other treatments on the same day, so that intervals can be told apart
  const aside = (row: number) => (row - (rows.length - 1) / 2) * 5;
  const ends = spread(
    rows.map((row) => y(row.points.at(-1)?.counted.value ?? 0)),
    15,
  );
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="block h-auto w-full max-w-[760px]"
      role="img"
      aria-label={`${what}, ${rows.length} treatments`}
    >
      <LevelLines y={y} ticks={5} left={LEFT} right={WIDTH - RIGHT} />
      {x.ticks(8).map((tick) => (
        <text key={tick} x={x(tick)} y={HEIGHT - BOTTOM + 16} textAnchor="middle" fontSize="12" fill="currentColor">
          {tick}
        </text>
      ))}
      <line x1={LEFT} x2={WIDTH - RIGHT} y1={y(0)} y2={y(0)} stroke="currentColor" />
      <text x={(LEFT + WIDTH - RIGHT) / 2} y={HEIGHT - 4} textAnchor="middle" fontSize="13" fill="currentColor">
        days from sowing
      </text>
      <text transform={`translate(14 ${HEIGHT / 2}) rotate(-90)`} textAnchor="middle" fontSize="13" fill="currentColor">
        plants {unit}
      </text>
      {rows.map((row, place) => {
        const treatment = treatments.find((pick) => pick.id === row.treatment_id);
        const fitted = row.points.flatMap((point) =>
          point.fitted ? [{ day: point.day, value: point.fitted.value }] : [],
        );
        const later = row.points.filter((point) => point.day >= (fitted.at(-1)?.day ?? 0));
        const start = fitted[0]?.day ? [{ day: 0, value: 0 }] : [];
        return (
          <g key={row.treatment_id} className={`ink-${((treatment?.position ?? 0) % 8) + 1}`}>
            {row.strips.map((strip) => (
              <path
                key={strip.strip_id}
                d={draw(strip.points.map((point) => ({ day: point.day, value: point.counted.value }))) ?? ""}
                fill="none"
                stroke="var(--ink)"
                strokeWidth="1"
                opacity="0.35"
              >
                <title>Strip {strip.order}</title>
              </path>
            ))}
            <path d={draw([...start, ...fitted]) ?? ""} fill="none" stroke="var(--ink)" strokeWidth="2.5" />
            <path
              d={draw(later.map((curvePoint) => ({ day: curvePoint.day, value: curvePoint.counted.value }))) ?? ""}
              fill="none"
              stroke="var(--ink)"
              strokeWidth="2"
              strokeDasharray="5 4"
            />
            {row.points.map((point) => (
              <g key={point.day} transform={`translate(${aside(place)} 0)`}>
                {point.lower && point.upper && (
                  <path
                    d={`M${x(point.day) - 4} ${y(point.lower.value)}h8m-4 0V${y(point.upper.value)}m-4 0h8`}
                    stroke="var(--ink)"
                    strokeWidth="1.5"
                    fill="none"
                  />
                )}
                <circle
                  cx={x(point.day)}
                  cy={y(point.counted.value)}
                  r="4"
                  fill="var(--color-base-100)"
                  stroke="var(--ink)"
                  strokeWidth="2"
                >
                  <title>
                    Day {point.day}: {point.counted.text}
                  </title>
                </circle>
              </g>
            ))}
            <text x={WIDTH - RIGHT + 10} y={(ends[place] ?? 0) + 4} fontSize="13" fill="currentColor">
              <tspan fontWeight="700">{treatment?.letter}</tspan> {treatment?.name}
            </text>
          </g>
        );
      })}
    </svg>
  );
}

/** Heights of labels moved apart until none covers another. */
function spread(heights: number[], gap: number): number[] {
  const order = heights.map((_, place) => place).sort((a, b) => (heights[a] ?? 0) - (heights[b] ?? 0));
  const moved = [...heights];
  for (const [rank, place] of order.entries()) {
    const above = order[rank - 1];
    if (above !== undefined) moved[place] = Math.max(moved[place] ?? 0, (moved[above] ?? 0) + gap);
  }
  return moved;
}
