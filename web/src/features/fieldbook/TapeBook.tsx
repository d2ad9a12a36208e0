import { useEffect, useState } from "react";
import type { Schemas, Typed } from "../../api/client";
import { useHere } from "../../app/Gate";
import { SpacingBars } from "../../ui/charts/SpacingBars";
import { QuantityField } from "../../ui/fields";
import { useReaderUnits } from "../../ui/readerUnits";
import { BookFrame } from "./BookFrame";
import { BookList } from "./BookList";
import type { BookProps } from "./bookProps";
import { Keypad, useKeys, withDigit, withPoint } from "./Keypad";
import { fresh, linesOf, takeBack } from "./lines";
import { lengthM, spacings } from "./running";

type Way = "typed" | "tapped";
/** A run under way: kept on the device until it is finished, so that no reload loses it. */
type Draft = { way: Way; positions: string[]; lookedAt: number[]; marks: string; unit: string };
const EMPTY = (unit: string): Draft => ({ way: "typed", positions: [], lookedAt: [], marks: "", unit });
const place = (stripId: string) => `tape:${stripId}`;

function draftOf(stripId: string, unit: string): Draft {
  try {
    const kept = localStorage.getItem(place(stripId));
    if (kept) return JSON.parse(kept) as Draft;
  } catch {
    // an unreadable draft is no reason to stop
  }
  return EMPTY(unit);
}

/** Along the tape: positions typed one after the other, or plants, gaps and doubles tapped while walking. */
export function TapeBook(props: BookProps & { scouting: Schemas["ScoutingOut"] }) {
  return <Run key={props.strip.id} {...props} />;
}

function Run(props: BookProps & { scouting: Schemas["ScoutingOut"] }) {
  const { trial, strip, outbox, scouting } = props;
  const { person } = useHere();
  const reader = useReaderUnits(trial);
  const row = scouting.strips.find((stripScouting) => stripScouting.strip_id === strip.id);
  const [draft, setDraft] = useState(() => draftOf(strip.id, reader.of.depth ?? "cm"));
  const [digits, setDigits] = useState("");
  const [problem, setProblem] = useState("");
  const [own, setOwn] = useState<Typed | null>(null);
  useEffect(() => localStorage.setItem(place(strip.id), JSON.stringify(draft)), [strip.id, draft]);
  const wanted = own ?? wantedOf(row?.spacing_wanted?.value, reader.of.in_row_spacing ?? "cm");
  const referenceM = lengthM(wanted) ?? 0;
  const owner = { person: person.username, trialId: trial.id, stripId: strip.id };
  const result = spacings(
    draft.positions.map((text) => (Number(text) === 0 ? 0 : (lengthM({ text, unit: draft.unit }) ?? Number.NaN))),
    referenceM,
  );
  const lines = linesOf({
    waitingKind: "tape",
    recordKind: "tape-run",
    stripId: strip.id,
    kept: row?.tapes ?? [],
    waiting: outbox.waiting,
    words: (run) => runWords(run.spacings.plants, run.spacings),
    waitingWords: (run) => run.words,
  });

  function add(text: string) {
    const last = Number(draft.positions.at(-1) ?? 0);
    const at = Number(text);
    if (!text || !Number.isFinite(at)) return;
    if (draft.positions.length && at < last)
      return setProblem(`${text} lies before the plant at ${last}. Tape the right way?`);
    setProblem("");
    setDraft({ ...draft, positions: [...draft.positions, text] });
    setDigits("");
  }
  const mark = (item: "p" | "g" | "d") => setDraft({ ...draft, marks: draft.marks + item });
  const press = useKeys({
    digit: (digit) => draft.way === "typed" && setDigits(withDigit(digit, 6)),
    point: () => setDigits(withPoint),
    back: () => {
      if (digits) setDigits(digits.slice(0, -1));
      else if (draft.marks) setDraft({ ...draft, marks: draft.marks.slice(0, -1) });
      else if (draft.positions.length) setDraft(withoutLast(draft));
      else return takeBack(lines.at(-1), outbox, owner);
      return undefined;
    },
    enter: () => (draft.way === "typed" ? add(digits) : mark("p")),
    go: props.go,
    gap: () =>
      draft.way === "typed"
        ? draft.positions.length && setDraft({ ...draft, lookedAt: [...draft.lookedAt, draft.positions.length] })
        : mark("g"),
    double: () => {
      const last = draft.positions.at(-1);
      if (draft.way === "tapped") mark("d");
      else if (digits) {
        setDraft({ ...draft, positions: [...draft.positions, digits, digits] });
        setDigits("");
      } else if (last !== undefined) setDraft({ ...draft, positions: [...draft.positions, last] });
    },
  });

  async function finish() {
    const plants = draft.way === "typed" ? draft.positions.length : [...draft.marks].length;
    if (!referenceM) return setProblem("Say the spacing wanted: doubles and skips are measured against it.");
    const words = result ? runWords(plants, shares(result, plants - 1)) : `${plants} places tapped`;
    const kept = await outbox.add({
      ...fresh(owner),
      kind: "tape",
      words,
      body: {
        strip_id: strip.id,
        reference: { text: wanted.text, unit: wanted.unit },
        positions: draft.way === "typed" ? draft.positions : [],
        positions_unit: draft.unit,
        looked_at: draft.way === "typed" ? [...new Set(draft.lookedAt)] : [],
        marks: draft.way === "tapped" ? draft.marks : "",
        by_eye: false,
        recorded_at: new Date().toISOString(),
      },
    });
    if (!kept) return;
    setDraft({ ...EMPTY(draft.unit), way: draft.way });
    setProblem("");
  }
  const enough = draft.way === "typed" ? draft.positions.length >= 3 : draft.marks.length >= 3;
  return (
    <BookFrame {...props} task="tape" layer="stand">
      <div className="mt-1 grid grid-cols-[3fr_2fr] items-end gap-2">
        <QuantityField label="Spacing wanted" dimension="length" reader={reader} value={wanted} onCommit={setOwn} />
        <label>
          Way
          <select
            className="entry min-h-12"
            value={draft.way}
            disabled={draft.positions.length > 0 || draft.marks !== ""}
            onChange={(event) => setDraft({ ...draft, way: event.target.value as Way })}
          >
            <option value="typed">type positions</option>
            <option value="tapped">tap as I walk</option>
          </select>
        </label>
      </div>
      <p className="mt-1 text-center" aria-live="polite">
        {draft.way === "typed" ? (
          result ? (
            <>
              <span className="text-xl font-semibold">
                CV {pct(result.cv)}, doubles {share(result.doubles, draft.positions.length - 1)}, skips{" "}
                {share(result.skips, draft.positions.length - 1)}
              </span>{" "}
              <span className="muted">
                {draft.positions.length} plants, precision {pct(result.precision)}
              </span>
            </>
          ) : (
            <span className="muted">
              {draft.positions.length} plants. Stake the tape at a plant, then type where each one stands.
            </span>
          )
        ) : (
          <Tapped marks={draft.marks} />
        )}
      </p>
      {result && <SpacingBars numbers={result.histogram} small />}
      {draft.way === "typed" ? (
        <>
          {draft.positions.length > 0 && (
            <p className="muted truncate text-center text-sm">… {draft.positions.slice(-6).join(", ")}</p>
          )}
          <output
            aria-label="Position typed"
            className="tag my-1 block border-b-2 border-base-content text-center text-5xl leading-none"
          >
            {digits || <span className="opacity-25">0</span>}
            <span className="ml-2 text-2xl">{draft.unit}</span>
          </output>
        </>
      ) : null}
      {problem && (
        <p role="alert" className="font-medium text-error">
          {problem}
        </p>
      )}
      <div className="grid grid-cols-3 gap-1.5">
        <button type="button" className="plain min-h-12" onClick={() => press.gap?.()}>
          {draft.way === "typed" ? "Gap is real" : "Gap"} <kbd className="muted">g</kbd>
        </button>
        <button type="button" className="plain min-h-12" onClick={() => press.double?.()}>
          Double <kbd className="muted">d</kbd>
        </button>
        <button type="button" className="plain min-h-12 font-semibold" disabled={!enough} onClick={() => void finish()}>
          Finish run
        </button>
      </div>
      <BookList label="Runs of this strip" lines={lines} />
      {draft.way === "typed" ? (
        <Keypad press={press} recordable={Boolean(digits)} decimals what="plant" />
      ) : (
        <div className="mt-1 grid grid-cols-[1fr_2fr] gap-1.5">
          <button type="button" className="plain min-h-28" onClick={press.back}>
            Back
          </button>
          <button type="button" className="act min-h-28 text-2xl" onClick={press.enter}>
            Plant
          </button>
        </div>
      )}
    </BookFrame>
  );
}

const pct = (value: number | null) => (value === null ? "not known" : `${(100 * value).toFixed(0)} %`);
const share = (number: number, of: number) => (of > 0 ? `${((100 * number) / of).toFixed(0)} %` : "0 %");
const shares = (result: NonNullable<ReturnType<typeof spacings>>, of: number) => ({
  cv_pct: result.cv === null ? null : 100 * result.cv,
  doubles_pct: (100 * result.doubles) / of,
  skips_pct: (100 * result.skips) / of,
});

/** A run in a line: plants, unevenness, doubles and skips. */
export function runWords(
  plants: number,
  run: { cv_pct: number | null; doubles_pct: number; skips_pct: number },
): string {
  const cv = run.cv_pct === null ? "" : `CV ${run.cv_pct.toFixed(0)} %, `;
  return `${plants} plants, ${cv}doubles ${run.doubles_pct.toFixed(0)} %, skips ${run.skips_pct.toFixed(0)} %`;
}

/** The spacing that rate and row width ask for, as the reader would type it. */
function wantedOf(shown: number | undefined, unit: string): Typed {
  return { text: shown === undefined ? "" : shown.toFixed(unit === "in" ? 2 : 1), unit };
}

/** The last plant taken off, with the gap marked after it. */
function withoutLast(draft: Draft): Draft {
  const positions = draft.positions.slice(0, -1);
  return { ...draft, positions, lookedAt: draft.lookedAt.filter((number) => number <= positions.length) };
}

function Tapped({ marks }: { marks: string }) {
  const of = (mark: string) => [...marks].filter((item) => item === mark).length;
  return (
    <>
      <span className="text-xl font-semibold">
        {of("p") + 2 * of("d")} plants, doubles {share(of("d"), marks.length)}, gaps {share(of("g"), marks.length)}
      </span>
      <span className="muted block">{marks.length} places. One tap at each place a seed was meant to lie.</span>
    </>
  );
}
