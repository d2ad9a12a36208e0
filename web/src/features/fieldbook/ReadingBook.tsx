import { useState } from "react";
import type { RecordKind, Schemas, Typed } from "../../api/client";
import { useHere } from "../../app/Gate";
import { QuantityField, useUnits } from "../../ui/fields";
import { blankIn, type ReaderUnits, useReaderUnits } from "../../ui/readerUnits";
import { BookFrame, type Task } from "./BookFrame";
import { BookList } from "./BookList";
import type { BookProps } from "./bookProps";
import { Keypad, useKeys, withDigit, withPoint } from "./Keypad";
import { fresh, linesOf, takeBack } from "./lines";
import type { Kind } from "./outbox";

/** What stays from one reading to the next, by name of the entry: the unit of the first, the others whole. */
type Kept = Record<string, Typed>;
const place = (trialId: string, kind: Kind) => `reading:${trialId}:${kind.kind}`;

function keptOf(trialId: string, kind: Kind, reader: ReaderUnits): Kept {
  const usual: Kept = Object.fromEntries(kind.entries.map((entry) => [entry.name, blankIn(reader, entry.quantity)]));
  try {
    return { ...usual, ...(JSON.parse(localStorage.getItem(place(trialId, kind)) ?? "{}") as Kept) };
  } catch {
    return usual;
  }
}

type Props = BookProps & { kind: Kind; task: Task; readings: Schemas["ReadingsOut"] };

/** Readings of a kind that the registry describes: the first value on the keypad, the others as they were last time. */
export function ReadingBook(props: Props) {
  const { trial, strip, outbox, kind, readings } = props;
  const { person } = useHere();
  const reader = useReaderUnits(trial);
  const [first, ...others] = kind.entries as [Kind["entries"][number], ...Kind["entries"]];
  const [kept, setKept] = useState(() => keptOf(trial.id, kind, reader));
  const [digits, setDigits] = useState("");
  const [problem, setProblem] = useState("");
  const unit = kept[first.name]?.unit ?? "";
  const units = useUnits(first.dimension, reader, unit);
  const unitLabel = units.find(([code]) => code === unit)?.[1] ?? unit;
  const owner = { person: person.username, trialId: trial.id, stripId: strip.id };
  const lines = linesOf({
    waitingKind: "reading",
    recordKind: kind.kind as RecordKind,
    stripId: strip.id,
    kept: (readings.strips.find((stripReadings) => stripReadings.strip_id === strip.id)?.readings ?? []).filter(
      (reading) => reading.kind === kind.kind,
    ),
    waiting: outbox.waiting.filter((item) => item.kind !== "reading" || item.recordKind === kind.kind),
    words: (reading) => [reading.text, ...reading.questions.map((question) => `? ${question.text}`)].join(" "),
    waitingWords: (readingWaiting) => readingWaiting.words,
  });
  const put = (name: string, typed: Typed) => {
    const next = { ...kept, [name]: typed };
    setKept(next);
    setProblem("");
    localStorage.setItem(place(trial.id, kind), JSON.stringify(next));
  };

  async function record() {
    if (!digits) return;
    const missing = others.find((entry) => !kept[entry.name]?.text.trim());
    if (missing) return setProblem(`Type it first: ${missing.label.toLowerCase()}.`);
    const beside = others.map((entry) => `, at ${kept[entry.name]?.text} ${kept[entry.name]?.unit}`).join("");
    const taken = await outbox.add({
      ...fresh(owner),
      kind: "reading",
      recordKind: kind.kind as RecordKind,
      words: `${digits} ${unitLabel}${beside}`,
      body: {
        strip_id: strip.id,
        ...kept,
        [first.name]: { text: digits, unit },
        recorded_at: new Date().toISOString(),
      },
    });
    if (taken) {
      setDigits("");
      setProblem("");
    }
    return taken;
  }
  const move = (step: number) => {
    setDigits("");
    props.go(step);
  };
  const press = useKeys({
    digit: (digit) => setDigits(withDigit(digit, 6)),
    point: () => setDigits(withPoint),
    back: () => (digits ? setDigits(digits.slice(0, -1)) : takeBack(lines.at(-1), outbox, owner)),
    enter: record,
    go: move,
  });
  return (
    <BookFrame {...props} go={move} layer="plan">
      <div className="mt-1 grid grid-cols-2 items-end gap-2">
        <label>
          {first.label} in
          <select
            className="entry min-h-12"
            value={unit}
            onChange={(event) => put(first.name, { text: "", unit: event.target.value })}
          >
            {units.map(([code, label]) => (
              <option key={code} value={code}>
                {label}
              </option>
            ))}
          </select>
        </label>
        {others.map((entry) => (
          <QuantityField
            key={entry.name}
            label={entry.label}
            dimension={entry.dimension}
            kind={entry.quantity}
            reader={reader}
            value={kept[entry.name] ?? blankIn(reader, entry.quantity)}
            onCommit={(typed) => put(entry.name, typed)}
          />
        ))}
      </div>
      {kind.hint && <p className="muted mt-1">{kind.hint}</p>}
      <output
        aria-label="Value typed"
        className="tag my-1 block border-b-2 border-base-content text-center text-5xl leading-none"
      >
        {digits || <span className="opacity-25">0</span>}
        <span className="ml-2 text-2xl">{unitLabel}</span>
      </output>
      {problem && (
        <p role="alert" className="font-medium text-error">
          {problem}
        </p>
      )}
      <BookList label={`${kind.words} on this strip`} lines={lines} />
      <Keypad press={press} recordable={Boolean(digits)} decimals what="value" />
    </BookFrame>
  );
}
