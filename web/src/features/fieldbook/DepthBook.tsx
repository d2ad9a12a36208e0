import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useHere } from "../../app/Gate";
import { BookFrame } from "./BookFrame";
import { BookList } from "./BookList";
import type { BookProps } from "./bookProps";
import { Keypad, useKeys, withDigit, withPoint } from "./Keypad";
import { fresh, type Line, takeBack, voidedIn } from "./lines";
import { OpenerField, openerOf } from "./OpenerField";
import type { Waiting } from "./outbox";
import { LEVEL_PCT, running } from "./running";

type Measured = Line & { depthM: number };
type Strip = Schemas["StripPlantingOut"] | undefined;

/** Depths of one strip as they stand on the server and on this device together. */
export function depthsOf(row: Strip, waiting: Waiting[], stripId: string, unit: string): Measured[] {
  const voided = voidedIn(waiting);
  const kept = (row?.depths ?? []).filter((depth) => !voided.has(depth.id));
  const known = new Set(kept.map((depthCheck) => depthCheck.id));
  return [
    ...kept.map((depthCheck) => ({
      id: depthCheck.id,
      text: `${depthCheck.depth.text} ${depthCheck.depth.unit}`,
      kind: "depth-check" as const,
      depthM: depthCheck.depth_m,
      version: depthCheck.version,
      waiting: false,
      refused: null,
    })),
    ...waiting.flatMap((item) =>
      item.kind === "depth" && item.stripId === stripId && !known.has(item.id)
        ? [
            {
              id: item.id,
              text: `${item.body.depth.text} ${unit}`,
              kind: "depth-check" as const,
              depthM: item.depthM,
              version: 1,
              waiting: true,
              refused: item.refused,
            },
          ]
        : [],
    ),
  ];
}

/** Share of depths inside the crop's window, as words; empty without a window or depths. */
export function insideWords(depths: number[], window: number[]): string {
  const [shallow, deep] = window;
  if (shallow === undefined || deep === undefined || !depths.length) return "";
  const inside = depths.filter((depth) => depth >= shallow - 1e-9 && depth <= deep + 1e-9).length;
  return `${inside} of ${depths.length} inside the window`;
}

/** Depths dug and measured: one number after the other, with mean, interval and the share inside the window. */
export function DepthBook(props: BookProps & { planting: Schemas["PlantingOut"] }) {
  const { trial, strip, outbox, planting } = props;
  const { person } = useHere();
  const unit = planting.depth_unit;
  const [digits, setDigits] = useState("");
  const [opener, setOpener] = useState(() => openerOf(trial.id));
  const row = planting.strips.find((stripPlanting) => stripPlanting.strip_id === strip.id);
  const lines = depthsOf(row, outbox.waiting, strip.id, unit.label);
  const standing = lines.filter((line) => !line.refused).map((line) => line.depthM);
  const now = running(standing);
  const owner = { person: person.username, trialId: trial.id, stripId: strip.id };
  const decimals = unit.code === "in";
  const show = (metres: number) => (metres / unit.factor).toFixed(decimals ? 2 : 0);

  async function record() {
    const depthM = Number(digits) * unit.factor;
    if (!digits || !Number.isFinite(depthM)) return;
    const kept = await outbox.add({
      ...fresh(owner),
      kind: "depth",
      depthM,
      body: {
        strip_id: strip.id,
        depth: { text: digits, unit: unit.code },
        opener,
        recorded_at: new Date().toISOString(),
      },
    });
    if (kept) setDigits("");
    return kept;
  }

  const move = (step: number) => {
    setDigits("");
    props.go(step);
  };
  const press = useKeys({
    digit: (digit) => setDigits(withDigit(digit, 5)),
    point: () => decimals && setDigits(withPoint),
    back: () => (digits ? setDigits(digits.slice(0, -1)) : takeBack(lines.at(-1), outbox, owner)),
    enter: record,
    go: move,
  });
  const target = row?.target_depth;
  return (
    <BookFrame
      {...props}
      task="depth"
      choose={(next) => {
        setDigits("");
        props.choose(next);
      }}
      go={move}
      layer="depth"
    >
      <p className="mt-1 text-center">
        {target ? `Wanted ${target.text}` : "No depth wanted is set"}
        {planting.window && `, usual window ${planting.window}`}
      </p>
      <p className="text-center" aria-live="polite">
        {now ? (
          <>
            <span className="text-xl font-semibold">
              {show(now.mean)}
              {now.halfWidth !== null && ` ± ${show(now.halfWidth)}`} {unit.label}
            </span>{" "}
            <span className="muted">
              {now.n} dug{now.halfWidth !== null && ` (${LEVEL_PCT.toFixed(0)} % interval)`}
            </span>
            <span className="block font-semibold">{insideWords(standing, planting.window_m)}</span>
          </>
        ) : (
          <span className="muted">No depth on this strip yet: dig under several openers.</span>
        )}
      </p>
      <output
        aria-label="Depth typed"
        className="tag my-1 block border-b-2 border-base-content text-center text-6xl leading-none"
      >
        {digits || <span className="opacity-25">0</span>}
        <span className="ml-2 text-2xl">{unit.label}</span>
      </output>
      <OpenerField trialId={trial.id} value={opener} onChange={setOpener} />
      <BookList label="Depths of this strip" lines={lines} />
      <Keypad press={press} recordable={Boolean(digits)} decimals={decimals} what="depth" />
    </BookFrame>
  );
}
