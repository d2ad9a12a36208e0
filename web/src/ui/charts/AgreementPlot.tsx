import { scaleLinear } from "d3-scale";
import type { Schemas } from "../../api/client";

type Props = {
  agreement: Schemas["LogAgreementOut"];
  strips: Schemas["LogStripOut"][];
  treatments: Schemas["TreatmentOut"][];
};
const WIDE = 760;
const TALL = 300;
const LEFT = 62;
const RIGHT = 160;
const BOTTOM = TALL - 46;
const signed = (value: number) => {
  const text = Math.abs(value).toFixed(2);
  return Number(text) === 0 ? text : (value > 0 ? "+" : "−") + text;
};

/** Scale less log against their middle, one letter a strip, with bias and limits of agreement. */
export function AgreementPlot({ agreement, strips, treatments }: Props) {
  const { points, bias, lower, upper, unit } = agreement;
  const middles = points.map(([middle = 0]) => middle);
  const air = (Math.max(...middles) - Math.min(...middles)) * 0.08 || 0.1;
  const x = scaleLinear([Math.min(...middles) - air, Math.max(...middles) + air], [LEFT, WIDE - RIGHT]).nice(6);
  const offs = [0, lower, upper, ...points.map(([, off = 0]) => off)];
  const y = scaleLinear([Math.min(...offs), Math.max(...offs)], [BOTTOM, 14]).nice(6);
  const lines: [number, string, string][] = [
    [upper, `limit ${signed(upper)}`, "6 4"],
    [bias, `bias ${signed(bias)}`, ""],
    [lower, `limit ${signed(lower)}`, "6 4"],
  ];
  return (
    <svg
      viewBox={`0 0 ${WIDE} ${TALL}`}
      className="block h-auto w-full max-w-[760px]"
      role="img"
      aria-label={`Scale less log on ${points.length} strips: bias ${signed(bias)}, limits of agreement ${signed(lower)} to ${signed(upper)} ${unit}`}
    >
      {y.ticks(6).map((tick) => (
        <g key={tick}>
          <line x1={LEFT} x2={WIDE - RIGHT} y1={y(tick)} y2={y(tick)} stroke="var(--color-base-300)" />
          <text x={LEFT - 8} y={y(tick) + 4} textAnchor="end" fontSize="13" fill="currentColor">
            {signed(tick)}
          </text>
        </g>
      ))}
      {lines.map(([value, words, dash]) => (
        <g key={words}>
          <line
            x1={LEFT}
            x2={WIDE - RIGHT}
            y1={y(value)}
            y2={y(value)}
            stroke="currentColor"
            strokeWidth="2"
            strokeDasharray={dash}
          />
          <text x={WIDE - RIGHT + 8} y={y(value) + 4} fontSize="13" fill="currentColor">
            {words}
          </text>
        </g>
      ))}
      {points.map(([middle = 0, off = 0], place) => {
        const strip = strips[place];
        const position = treatments.find((treatment) => treatment.letter === strip?.letter)?.position ?? 0;
        return (
          <text
            key={strip?.strip_id ?? place}
            x={x(middle)}
            y={y(off) + 5}
            textAnchor="middle"
            fontSize="15"
            fontWeight="700"
            className={`ink-${(position % 8) + 1}`}
            fill="var(--ink)"
          >
            <title>
              Strip {strip?.order}: scale {strip?.scale?.text}, log {strip?.yield_?.text}
            </title>
            {strip?.letter}
          </text>
        );
      })}
      <g fontSize="13" fill="currentColor">
        {x.ticks(6).map((tick) => (
          <text key={tick} x={x(tick)} y={BOTTOM + 18} textAnchor="middle">
            {x.tickFormat(6)(tick)}
          </text>
        ))}
        <text x={(LEFT + WIDE - RIGHT) / 2} y={TALL - 8} textAnchor="middle">
          middle of scale and log, {unit}; a letter is a strip
        </text>
      </g>
    </svg>
  );
}
