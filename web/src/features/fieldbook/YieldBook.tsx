import { useEffect, useState } from "react";
import type { Schemas } from "../../api/client";
import { useHere } from "../../app/Gate";
import { useReaderUnits } from "../../ui/readerUnits";
import { BookFrame } from "./BookFrame";
import { BookList } from "./BookList";
import type { BookProps } from "./bookProps";
import { HowSampled, howTaken, storeTaken } from "./HowSampled";
import { Keypad, useKeys } from "./Keypad";
import { fresh, type Line, linesOf, takeBack, voidedIn } from "./lines";
import { inWalk, nextPlace } from "./NextPlace";
import {
  type Draft,
  draftOf,
  drawnPieces,
  EMPTY,
  fullPieces,
  keepDraft,
  onwardFrom,
  recordable,
  type Step,
  stepsOf,
  typed,
  typedAt,
} from "./yieldSteps";

type Method = Schemas["MethodOut"];
type Row = Schemas["StripSamplesOut"];
type Place = Schemas["DrawnPlaceOut"];

/** Sampling yield: count the area, then piece by piece as they were drawn; one entry on the screen at a time. */
export function YieldBook(props: BookProps & { estimates: Schemas["EstimatesOut"] }) {
  const { trial, strip, outbox, estimates } = props;
  const { person } = useHere();
  const reader = useReaderUnits(trial);
  const [how, setHow] = useState(() => howTaken(trial.id, estimates));
  const [draft, setDraft] = useState(() => draftOf(trial.id, strip.id));
  const [problem, setProblem] = useState("");
  useEffect(() => {
    setDraft(draftOf(trial.id, strip.id));
    setProblem("");
  }, [trial.id, strip.id]);
  const method = (estimates.methods.find((item) => item.key === how.method) ?? estimates.methods[0]) as Method;
  const planned = Boolean(estimates.plan) && method.key === estimates.method;
  const byEye = how.byEye || !planned;
  const row = estimates.strips.find((stripSamples) => stripSamples.strip_id === strip.id);
  const owner = { person: person.username, trialId: trial.id, stripId: strip.id };
  const lines = linesFor(row, strip.id, method, outbox.waiting);
  const next = byEye ? null : placeNext(estimates, row, strip.id, outbox.waiting);
  const wanted = method.counted ? Math.max(estimates.pieces || 5, 1) : 0;
  const steps = stepsOf(method, draft, wanted);
  const at = Math.min(draft.at, steps.length - 1);
  const step = steps[at];
  const text = typedAt(draft, step);
  const entry = step && step.kind !== "number" ? step.entry : null;
  const unit = entry ? unitOf(entry, how.units) : null;
  const put = (changed: Draft) => {
    setDraft(changed);
    setProblem("");
    keepDraft(trial.id, strip.id, changed);
  };
  const type = (next: string) => step && put({ ...typed(draft, step, next), at });
  const move = (by: number) => props.go(by);

  function onward() {
    if (!step) return;
    const next = onwardFrom(method, draft, steps, at);
    if (next === "empty") return setProblem(`${labelOf(method, step)}: type a number.`);
    if (next !== null) return put({ ...draft, at: next });
    return record();
  }

  async function record() {
    if (!recordable(method, draft)) return setProblem("Not all there yet: count the area and measure what was drawn.");
    const pieces = fullPieces(method, draft);
    const units = Object.fromEntries(
      [...method.piece_fields, ...method.place_fields].flatMap((entry) =>
        entry.units.length ? [[entry.key, unitOf(entry, how.units)?.[0] ?? ""]] : [],
      ),
    );
    const kept = await outbox.add({
      ...fresh(owner),
      kind: "yield",
      words: wordsOf(method, draft, pieces.length, byEye),
      body: {
        strip_id: strip.id,
        method: method.key,
        plan_id: next ? (estimates.plan?.id ?? null) : null,
        place: next?.number ?? null,
        by_eye: byEye,
        number: draft.number,
        pieces,
        values: draft.values,
        units,
        rows: "1",
        recorded_at: new Date().toISOString(),
        ...(how.framed
          ? { area: how.area }
          : {
              length: how.length,
              row_spacing: { text: row?.row_spacing.text ?? "", unit: row?.row_spacing.unit ?? "" },
            }),
      } as Schemas["YieldSampleIn"],
    });
    if (kept) put(EMPTY);
    return kept;
  }

  const whole = step?.kind === "number" || Boolean(step?.entry.whole);
  const press = useKeys({
    digit: (digit) => type(text === "0" ? digit : (text + digit).slice(0, 7)),
    point: () => !whole && type(text.includes(".") ? text : `${text || "0"}.`),
    back: () => {
      if (text) type(text.slice(0, -1));
      else if (at > 0) put({ ...draft, at: at - 1 });
      else return takeBack(lines.at(-1), outbox, owner);
      return undefined;
    },
    enter: onward,
    go: move,
  });
  const choices = step?.kind === "place" ? step.entry.choices : [];
  return (
    <BookFrame {...props} task="yield" go={move} layer="estimate">
      <HowSampled
        how={how}
        methods={estimates.methods}
        method={method}
        spacing={row?.row_spacing.shown ?? null}
        reader={reader}
        planned={planned}
        onChange={(changed) => {
          if (changed.method !== how.method) put(EMPTY);
          setHow(changed);
          storeTaken(trial.id, changed);
        }}
      />
      <Where byEye={byEye} places={row?.places.length ?? 0} next={next} />
      {method.caution && <p className="caution mt-1 py-0.5 text-sm leading-tight">{method.caution}</p>}
      <p className="mt-1 text-center leading-tight" aria-live="polite">
        <span className="block text-lg font-semibold">{step ? promptOf(method, draft, step, wanted, next) : ""}</span>
        <span className="muted">
          {step && step.kind !== "number" && step.entry.optional ? "if known; Next leaves it out" : ""}
          {taking(method, draft, wanted, next, step)}
        </span>
      </p>
      {choices.length > 0 ? (
        <div role="group" aria-label="Choose" className="my-1 grid grid-cols-2 gap-1.5">
          {choices.map(([key = "", name]) => (
            <button
              key={key}
              type="button"
              aria-pressed={text === key}
              className={text === key ? "act min-h-14" : "plain min-h-14"}
              onClick={() => step && put({ ...typed(draft, step, key), at })}
            >
              {name}
            </button>
          ))}
        </div>
      ) : (
        <output
          aria-label="Value typed"
          className="tag my-1 block border-b-2 border-base-content text-center text-5xl leading-none"
        >
          {text || <span className="opacity-25">0</span>}
          <span className="ml-2 text-2xl">{unit?.[1]}</span>
        </output>
      )}
      {entry && entry.units.length > 1 && (
        <button
          type="button"
          className="plain mx-auto min-h-12"
          onClick={() => {
            const changed = { ...how, units: { ...how.units, [entry.key]: unitAfter(entry, unit?.[0])?.[0] ?? "" } };
            setHow(changed);
            storeTaken(trial.id, changed);
          }}
        >
          In {unit?.[1]}: change the unit
        </button>
      )}
      {problem && (
        <p role="alert" className="font-medium text-error">
          {problem}
        </p>
      )}
      <BookList label="Sampled on this strip" lines={lines} />
      <div className="mt-1 flex gap-1.5">
        <button type="button" className="plain min-h-12 flex-1" disabled={!recordable(method, draft)} onClick={record}>
          Record as it is
        </button>
        <button type="button" className="act min-h-12 flex-1" onClick={onward}>
          {at < steps.length - 1 ? "Next" : "Record"}
        </button>
      </div>
      <Keypad press={press} recordable={null} decimals={!whole} what="entry" />
    </BookFrame>
  );
}

type Entry = Schemas["EntryOut"];
/** The unit an entry is typed in: the one chosen, else the reader's first. */
const unitOf = (entry: Entry, chosen: Record<string, string>) =>
  entry.units.find(([code]) => code === chosen[entry.key]) ?? entry.units[0] ?? null;
const unitAfter = (entry: Entry, code: string | undefined) =>
  entry.units[(entry.units.findIndex(([item]) => item === code) + 1) % entry.units.length];

function Where({ byEye, places, next }: { byEye: boolean; places: number; next: Place | null }) {
  if (byEye && places) return <p className="mt-1 text-center font-medium">Place chosen by eye: it is marked so.</p>;
  if (byEye)
    return (
      <p className="muted mt-1 text-center">No places drawn for this: what is entered is marked as taken by eye.</p>
    );
  return (
    <p className="mt-1 border-2 border-accent bg-(--paper) px-2 py-0.5 text-center" aria-live="polite">
      {next ? (
        <>
          <span className="font-semibold">
            {next.extra ? `Planned places done; in reserve, place ${next.number}` : `Place ${next.number}`}:
          </span>{" "}
          {next.words}
        </>
      ) : (
        <span className="font-semibold">All {places} places sampled. On to the next strip.</span>
      )}
    </p>
  );
}

const labelOf = (method: Method, step: Step) => (step.kind === "number" ? method.counted : step.entry.label);
const endings: Record<number, string> = { 1: "st", 2: "nd", 3: "rd" };
export const ordinal = (item: number) =>
  `${item}${item % 100 >= 11 && item % 100 <= 13 ? "th" : (endings[item % 10] ?? "th")}`;
const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** What is asked now: “7th ear from the peg: kernel rows”. */
function promptOf(method: Method, draft: Draft, step: Step, wanted: number, next: Place | null): string {
  if (step.kind !== "piece") return labelOf(method, step);
  if (method.key === "counted") return `Weighing ${step.piece + 1}: ${step.entry.label.toLowerCase()}`;
  const drawn = next ? drawnPieces(Number(draft.number), wanted, next.start)[step.piece] : null;
  const which = drawn ? `${ordinal(drawn)} ${method.piece} from the peg` : capital(`${method.piece} ${step.piece + 1}`);
  return `${which}: ${step.entry.label.toLowerCase()}`;
}

/** Which pieces to take, once the area is counted. */
function taking(method: Method, draft: Draft, wanted: number, next: Place | null, step: Step | undefined): string {
  if (!next || step?.kind !== "piece") return "";
  const numbers = drawnPieces(Number(draft.number), wanted, next.start);
  const row = next.row === null ? "" : `, row ${next.row}`;
  return method.key === "counted"
    ? `Take ${numbers.join(", ")}${row}`
    : `Of ${draft.number}: ${numbers.join(", ")}${row}`;
}

function wordsOf(method: Method, draft: Draft, pieces: number, byEye: boolean): string {
  const parts = method.counted ? [`${draft.number} counted`, `${pieces} ${method.pieces} measured`] : [method.name];
  return [...parts, ...(byEye ? ["by eye"] : [])].join(", ");
}

function linesFor(
  row: Row | undefined,
  stripId: string,
  method: Method,
  waiting: BookProps["outbox"]["waiting"],
): Line[] {
  return linesOf({
    waitingKind: "yield",
    recordKind: "yield-sample",
    stripId,
    kept: (row?.samples ?? []).filter((sample) => sample.method === method.key),
    waiting,
    words: (yieldSample) =>
      [
        yieldSample.by_eye
          ? `by eye: ${yieldSample.words}`
          : yieldSample.place
            ? `place ${yieldSample.place}: ${yieldSample.words}`
            : yieldSample.words,
        yieldSample.problem,
        ...yieldSample.questions.map((question) => `? ${question.text}`),
      ]
        .filter(Boolean)
        .join(" "),
    waitingWords: (yieldWaiting) => yieldWaiting.words,
  });
}

function placeNext(
  estimates: Schemas["EstimatesOut"],
  row: Row | undefined,
  stripId: string,
  waiting: BookProps["outbox"]["waiting"],
): Place | null {
  const voided = voidedIn(waiting);
  const planId = estimates.plan?.id;
  const done = new Set<number>();
  for (const sample of row?.samples ?? []) {
    if (sample.plan_id === planId && sample.place !== null && !voided.has(sample.id)) done.add(sample.place);
  }
  for (const item of waiting) {
    if (
      item.kind === "yield" &&
      item.stripId === stripId &&
      item.body.plan_id === planId &&
      item.body.place &&
      !item.refused
    )
      done.add(item.body.place);
  }
  const places = inWalk(row?.places ?? [], estimates.plan, stripId);
  // places in reserve are open once the planned ones are done: narrowing may ask for them
  return nextPlace(places, done, 1) as Place | null;
}
