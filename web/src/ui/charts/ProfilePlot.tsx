import { scaleLinear, scaleUtc } from "d3-scale";
import { line } from "d3-shape";
import type { Schemas, Treatment } from "../../api/client";
import { writtenDay } from "../writing";
import { LevelLines } from "./axis";

type Props = {
  profile: Schemas["ProfileOut"];
  treatments: Pick<Treatment, "id" | "letter" | "name" | "position">[];
  name: string;
};

const WIDTH = 720;
const HEIGHT = 220;
const [LEFT, RIGHT, TOP, BOTTOM] = [64, 120, 10, 30];

/** A trait over its visits: means over strips with their intervals, each treatment named at the end. */
export function ProfilePlot({ profile, treatments, name }: Props) {
  const at = (day: string) => Date.parse(`${day}T12:00:00Z`);
  const days = profile.points.map((point) => at(point.day));
  const values = profile.points.flatMap((point) =>
    point.values.flatMap((value) => [value.lower?.value, value.mean?.value, value.upper?.value]),
  );
  const known = values.filter((value): value is number => value !== undefined);
  const x = scaleUtc([Math.min(...days), Math.max(...days)], [LEFT, WIDTH - RIGHT]);
  const y = scaleLinear([Math.min(0, ...known), Math.max(...known) * 1.05], [HEIGHT - BOTTOM, TOP]).nice();
  const draw = line<{ day: number; value: number }>(
    (item) => x(item.day),
    (item) => y(item.value),
  );
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="block h-auto w-full max-w-[760px]"
      role="img"
      aria-label={`${name} over ${profile.points.length} visits, ${treatments.length} treatments`}
    >
      <LevelLines y={y} ticks={4} left={LEFT} right={WIDTH - RIGHT} />
      {profile.points.map((point) => (
        <text key={point.day} x={x(at(point.day))} y={HEIGHT - 8} textAnchor="middle" fontSize="12" fill="currentColor">
          {writtenDay(point.day)}
        </text>
      ))}
      {treatments.map((treatment, place) => {
        const aside = (place - (treatments.length - 1) / 2) * 5;
        const own = profile.points.flatMap((point) => {
          const value = point.values.find((item) => item.treatment_id === treatment.id);
          return value?.mean ? [{ ...value, day: at(point.day), value: value.mean.value }] : [];
        });
        const last = own.at(-1);
        if (!last) return null;
        return (
          <g key={treatment.id} className={`ink-${(treatment.position % 8) + 1}`} transform={`translate(${aside} 0)`}>
            <path d={draw(own) ?? ""} fill="none" stroke="var(--ink)" strokeWidth="2" />
            {own.map((item) => (
              <g key={item.day}>
                {item.lower && item.upper && (
                  <path
                    d={`M${x(item.day) - 4} ${y(item.lower.value)}h8m-4 0V${y(item.upper.value)}m-4 0h8`}
                    stroke="var(--ink)"
                    strokeWidth="1.5"
                    fill="none"
                  />
                )}
                <circle
                  cx={x(item.day)}
                  cy={y(item.value)}
                  r="4"
                  fill="var(--color-base-100)"
                  stroke="var(--ink)"
                  strokeWidth="2"
                >
                  <title>{item.mean?.text}</title>
                </circle>
              </g>
            ))}
            <text x={WIDTH - RIGHT + 12 - aside} y={y(last.value) + 4} fontSize="13" fill="currentColor">
              <tspan fontWeight="700">{treatment.letter}</tspan> {treatment.name}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
