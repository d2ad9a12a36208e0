import { scaleLinear } from "d3-scale";
import type { Schemas } from "../../api/client";
import { signedPct as signed } from "../percent";

type Pair = Schemas["PairOut"];
type Learned = Schemas["LearnedOut"];
const WIDE = 760;
const TALL = 300;
const LEFT = 62;
const RIGHT = 150;
const BOTTOM = TALL - 46;

/** Estimate over harvest in percent against their middle, with the bias and the limits of agreement of a group. */
export function LimitsPlot({ pairs, learned, unit }: { pairs: Pair[]; learned: Learned | undefined; unit: string }) {
  const middles = pairs.map((pair) => pair.middle);
  const low = Math.min(...middles);
  const high = Math.max(...middles);
  const air = (high - low) * 0.08 || high * 0.05;
  const x = scaleLinear([low - air, high + air], [LEFT, WIDE - RIGHT]).nice(6);
  const offs = [
    0,
    ...pairs.map((pair) => pair.difference_pct),
    ...(learned ? [learned.limit_low_pct, learned.limit_high_pct] : []),
  ];
  const y = scaleLinear([Math.min(...offs), Math.max(...offs)], [BOTTOM, 14]).nice(6);
  const lines: [number, string, string][] = learned
    ? [
        [learned.limit_high_pct, `limit ${signed(learned.limit_high_pct)}`, "6 4"],
        [learned.bias_pct, `bias ${signed(learned.bias_pct)}`, ""],
        [learned.limit_low_pct, `limit ${signed(learned.limit_low_pct)}`, "6 4"],
      ]
    : [];
  return (
    <svg
      viewBox={`0 0 ${WIDE} ${TALL}`}
      className="block h-auto w-full max-w-[760px]"
      role="img"
      aria-label={`Estimate against harvest on ${pairs.length} strips${learned ? `: bias ${signed(learned.bias_pct)}, limits of agreement ${signed(learned.limit_low_pct)} to ${signed(learned.limit_high_pct)}` : ""}`}
    >
      {y.ticks(6).map((tick) => (
        <g key={tick}>
          <line x1={LEFT} x2={WIDE - RIGHT} y1={y(tick)} y2={y(tick)} stroke="var(--color-base-300)" />
          <text x={LEFT - 8} y={y(tick) + 4} textAnchor="end" fontSize="13" fill="currentColor">
            {signed(tick)}
          </text>
        </g>
      ))}
      {learned && (
        <rect
          x={LEFT}
          width={WIDE - RIGHT - LEFT}
          y={y(learned.upper_pct)}
          height={Math.max(y(learned.lower_pct) - y(learned.upper_pct), 1)}
          fill="currentColor"
          opacity="0.12"
        >
          <title>
            Interval of the bias: {signed(learned.lower_pct)} to {signed(learned.upper_pct)}
          </title>
        </rect>
      )}
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
      <line x1={LEFT} x2={WIDE - RIGHT} y1={y(0)} y2={y(0)} stroke="currentColor" strokeWidth="1" />
      {pairs.map((pair) => (
        <g key={`${pair.trial_id}${pair.strip}`} transform={`translate(${x(pair.middle)} ${y(pair.difference_pct)})`}>
          <title>
            {pair.trial_title}, strip {pair.strip}: estimated {pair.estimate.text}, harvested {pair.harvest.text}
          </title>
          {pair.by_eye ? (
            <path d="M-4.5 -4.5L4.5 4.5M4.5 -4.5L-4.5 4.5" stroke="currentColor" strokeWidth="2" />
          ) : (
            <circle
              r="4.5"
              fill={pair.here ? "currentColor" : "var(--paper)"}
              stroke="currentColor"
              strokeWidth="1.5"
            />
          )}
        </g>
      ))}
      <g fontSize="13" fill="currentColor">
        {x.ticks(6).map((tick) => (
          <text key={tick} x={x(tick)} y={BOTTOM + 18} textAnchor="middle">
            {x.tickFormat(6)(tick)}
          </text>
        ))}
        <text x={(LEFT + WIDE - RIGHT) / 2} y={TALL - 8} textAnchor="middle">
          middle of estimate and harvest, {unit}; filled: this trial, open: others, cross: by eye
        </text>
      </g>
    </svg>
  );
}
