import type { ReactNode } from "react";
import type { Schemas } from "../../../api/client";

type Rule = Schemas["StageRuleOut"];

/** What counts is drawn full and numbered, what does not is drawn hollow and crossed. */
const COUNTS = { fill: "var(--color-base-content)", stroke: "var(--color-base-content)" };
const NOT = { fill: "none", stroke: "var(--color-base-content)", strokeDasharray: "3 3" };

function Label({ x, y, children, not = false }: { x: number; y: number; children: ReactNode; not?: boolean }) {
  return (
    <text x={x} y={y} fontSize="12" fill="currentColor" fontWeight={not ? 400 : 700} textAnchor="middle">
      {children}
    </text>
  );
}
const Ground = () => <line x1="10" x2="290" y1="200" y2="200" stroke="currentColor" strokeWidth="2" />;
const Stem = ({ to }: { to: number }) => (
  <line x1="150" x2="150" y1="200" y2={to} stroke="currentColor" strokeWidth="5" />
);

/** A blade to one side of the stem; a bar at its base is the collar. */
function Blade({ at, left, long, counts }: { at: number; left: boolean; long: number; counts: boolean }) {
  const way = left ? -1 : 1;
  const tip = 150 + way * long;
  return (
    <>
      <path
        d={`M150 ${at} Q ${150 + way * long * 0.5} ${at - 42} ${tip} ${at - 12} Q ${150 + way * long * 0.5} ${at - 22} 150 ${at + 6} Z`}
        {...(counts ? COUNTS : NOT)}
        opacity={counts ? 0.85 : 1}
      />
      {counts && (
        <rect
          x={150 + (left ? -9 : 3)}
          y={at - 3}
          width="6"
          height="8"
          fill="var(--paper)"
          stroke="currentColor"
          strokeWidth="1.5"
        />
      )}
    </>
  );
}

function Collar() {
  const leaves = [180, 155, 130, 106];
  return (
    <>
      <Ground />
      <Stem to={62} />
      {leaves.map((at, place) => (
        <Blade key={at} at={at} left={place % 2 === 0} long={place === 0 ? 52 : 88 + 6 * place} counts />
      ))}
      <Blade at={84} left long={62} counts={false} />
      <path d="M146 84 L150 26 L156 84" {...NOT} />
      {leaves.map((at, place) => (
        <Label
          key={at}
          x={place % 2 === 0 ? 150 - 66 - 14 * place : 150 + 70 + 12 * place}
          y={at - 30 + (place === 0 ? 18 : 0)}
        >
          {place + 1}
        </Label>
      ))}
      <Label x={222} y={44} not>
        in the whorl: not yet
      </Label>
      <Label x={64} y={196} not>
        rounded tip: 1
      </Label>
    </>
  );
}

/** A leaf of leaflets on a stalk. */
function Compound() {
  const leaf = (at: number, way: number, counts: boolean) => (
    <g key={at}>
      <line x1="150" x2={150 + way * 62} y1={at} y2={at - 18} stroke="currentColor" strokeWidth="2" />
      {[24, 44, 64].map((out) => (
        <ellipse
          key={out}
          cx={150 + way * out}
          cy={at - out * 0.29 - 9}
          rx={counts ? 10 : 4}
          ry={counts ? 6 : 9}
          {...(counts ? COUNTS : NOT)}
          opacity={counts ? 0.85 : 1}
        />
      ))}
    </g>
  );
  return (
    <>
      <Ground />
      <Stem to={46} />
      <ellipse cx="130" cy="186" rx="16" ry="8" {...NOT} />
      <ellipse cx="170" cy="186" rx="16" ry="8" {...NOT} />
      <Label x={242} y={190} not>
        seed leaves: no
      </Label>
      <path d="M150 160 q -28 -18 -46 0 q 22 12 46 0" {...NOT} />
      <Label x={58} y={140} not>
        first single leaf: no
      </Label>
      {leaf(132, 1, true)}
      {leaf(104, -1, true)}
      {leaf(78, 1, true)}
      {leaf(52, -1, false)}
      <Label x={232} y={116}>
        1
      </Label>
      <Label x={70} y={88}>
        2
      </Label>
      <Label x={232} y={62}>
        3
      </Label>
      <Label x={214} y={30} not>
        still folded: no
      </Label>
    </>
  );
}

function Tiller() {
  return (
    <>
      <Ground />
      <Stem to={70} />
      <Blade at={172} left long={70} counts />
      <Blade at={138} left={false} long={92} counts />
      <Blade at={104} left long={98} counts />
      <path d="M147 74 Q 152 44 162 30" fill="none" stroke="currentColor" strokeDasharray="3 3" strokeWidth="2" />
      <path d="M154 198 Q 196 176 206 128 Q 184 170 154 186 Z" {...NOT} />
      <Label x={70} y={150}>
        1
      </Label>
      <Label x={250} y={112}>
        2
      </Label>
      <Label x={44} y={82}>
        3
      </Label>
      <Label x={206} y={28} not>
        rolled tip: no
      </Label>
      <Label x={234} y={170} not>
        tiller: counted apart
      </Label>
    </>
  );
}

function Pair() {
  const pair = (at: number, long: number, counts: boolean) => (
    <g key={at}>
      {[-1, 1].map((way) => (
        <path
          key={way}
          d={`M150 ${at} q ${way * long * 0.5} ${-26} ${way * long} -6 q ${-way * long * 0.5} 22 ${-way * long} 6`}
          {...(counts ? COUNTS : NOT)}
          opacity={counts ? 0.85 : 1}
        />
      ))}
    </g>
  );
  return (
    <>
      <Ground />
      <Stem to={62} />
      {pair(180, 34, false)}
      {pair(142, 84, true)}
      {pair(102, 74, true)}
      {pair(66, 22, false)}
      <Label x={226} y={184} not>
        seed leaves: no
      </Label>
      <Label x={52} y={132}>
        1
      </Label>
      <Label x={248} y={132}>
        2
      </Label>
      <Label x={60} y={92}>
        3
      </Label>
      <Label x={240} y={92}>
        4
      </Label>
      <Label x={222} y={50} not>
        shorter: no
      </Label>
    </>
  );
}

function Rosette() {
  const spokes = [200, 245, 300, 340];
  return (
    <>
      <Ground />
      {spokes.map((angle, place) => {
        const [x, y] = [Math.cos((angle * Math.PI) / 180), Math.sin((angle * Math.PI) / 180)];
        return (
          <g key={angle}>
            <line x1="150" y1="186" x2={150 + 54 * x} y2={186 + 54 * y} stroke="currentColor" strokeWidth="3" />
            <ellipse
              cx={150 + 82 * x}
              cy={186 + 82 * y}
              rx="32"
              ry="18"
              transform={`rotate(${angle} ${150 + 82 * x} ${186 + 82 * y})`}
              {...COUNTS}
              opacity="0.85"
            />
            <Label x={150 + 128 * x} y={190 + 122 * y}>
              {place + 1}
            </Label>
          </g>
        );
      })}
      <path d="M132 190 q -14 -16 0 -18 q 10 2 8 18" {...NOT} />
      <path d="M160 190 q 14 -16 0 -18 q -10 2 -8 18" {...NOT} />
      <path d="M150 176 q -4 -26 4 -36 q 6 18 -4 36" {...NOT} />
      <Label x={150} y={128} not>
        curled heart: no
      </Label>
      <Label x={150} y={216} not>
        seed leaves: no
      </Label>
    </>
  );
}

function Fan() {
  const blades = [164, 142, 120, 98];
  return (
    <>
      <Ground />
      <path d="M138 200 q 12 26 24 0" fill="none" stroke="currentColor" strokeWidth="2" />
      <Stem to={92} />
      {blades.map((at, place) => {
        const way = place % 2 === 0 ? -1 : 1;
        const tip = 150 + way * (112 - 10 * place);
        return (
          <g key={at}>
            <path d={`M150 ${at + 8} L ${tip} ${at - 46} L 150 ${at - 6} Z`} {...COUNTS} opacity="0.85" />
            <Label x={tip + way * 12} y={at - 42}>
              {place + 1}
            </Label>
          </g>
        );
      })}
      <path d="M147 92 L150 40 L153 92" {...NOT} />
      <Label x={150} y={32} not>
        tip in the sheath: no
      </Label>
      <path d="M160 200 L172 168 L168 200" {...NOT} />
      <Label x={230} y={192} not>
        sprout leaf: no
      </Label>
    </>
  );
}

const DRAWINGS: Record<string, () => ReactNode> = {
  collar: Collar,
  compound: Compound,
  tiller: Tiller,
  pair: Pair,
  rosette: Rosette,
  fan: Fan,
};

/** Our own drawing of what counts for the stage of this crop and what does not, with the rule beside it. */
export function StagePicture({ rule, small = false }: { rule: Rule; small?: boolean }) {
  const Drawing = DRAWINGS[rule.drawing];
  const words = `Counts: ${rule.counts.join("; ")}. Does not count: ${rule.counts_not.join("; ")}.`;
  return (
    <figure className={small ? "grid grid-cols-[1fr_1fr] items-center gap-2" : "max-w-md"}>
      <svg viewBox="0 0 300 222" role="img" aria-label={words} className="block h-auto w-full">
        {Drawing && <Drawing />}
      </svg>
      <figcaption className="text-sm">
        <p>
          <span className="font-semibold">Counts:</span> {rule.counts.join("; ")}.
        </p>
        <p>
          <span className="font-semibold">Does not:</span> {rule.counts_not.join("; ")}.
        </p>
      </figcaption>
    </figure>
  );
}
