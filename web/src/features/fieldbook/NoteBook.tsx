import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useCatalogue, useFieldEvents } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { writtenDay } from "../../ui/writing";
import { BookFrame } from "./BookFrame";
import { BookList } from "./BookList";
import type { BookProps } from "./bookProps";
import { fresh, linesOf, takeBack } from "./lines";
import { ofThisVisit } from "./running";

type Kind = Schemas["FieldEventIn"]["kind"];
/** What one meets in the field, first. */
const NEAR: Kind[] = [
  "rain",
  "frost",
  "hail",
  "leak",
  "missed",
  "machine",
  "spray",
  "weeds",
  "pests",
  "disease",
  "lodging",
  "note",
];

/** Something that happened, on all strips or on those touched. */
export function NoteBook(props: BookProps) {
  const { trial, strip, outbox } = props;
  const { person } = useHere();
  const catalogue = useCatalogue();
  const events = useFieldEvents(trial.id);
  const [kind, setKind] = useState<Kind | "">("");
  const [text, setText] = useState("");
  const [chosen, setChosen] = useState<string[]>([]);
  const [hours, setHours] = useState("");
  const names = new Map(catalogue.data?.event_kinds.map(([key, name]) => [key, name]) ?? []);
  const owner = { person: person.username, trialId: trial.id, stripId: strip.id };
  const where = (ids: string[]) =>
    ids.length
      ? `strip ${trial.strips
          .filter((item) => ids.includes(item.id))
          .map((item) => item.order)
          .join(", ")}`
      : "all strips";
  const lines = linesOf({
    waitingKind: "event",
    recordKind: "field-event",
    stripId: strip.id,
    kept: (events.data ?? []).filter(
      (item) => ofThisVisit(item.happened_on) && (!item.strip_ids.length || item.strip_ids.includes(strip.id)),
    ),
    waiting: outbox.waiting,
    words: (item) => `${writtenDay(item.happened_on)} ${item.kind_label}: ${item.text} (${where(item.strip_ids)})`,
    waitingWords: (eventWaiting) => eventWaiting.words,
  });
  const toggle = (id: string) =>
    setChosen(chosen.includes(id) ? chosen.filter((item) => item !== id) : [...chosen, id]);

  async function record() {
    if (!kind || !text.trim()) return;
    const now = new Date();
    const kept = await outbox.add({
      ...fresh(owner),
      kind: "event",
      words: `${names.get(kind)}: ${text.trim()} (${where(chosen)})`,
      body: {
        kind,
        text: text.trim(),
        happened_on: now.toLocaleDateString("sv-SE"),
        strip_ids: chosen,
        reentry_hours: kind === "spray" && hours ? Number(hours) : null,
        recorded_at: now.toISOString(),
      },
    });
    if (!kept) return;
    setText("");
    setHours("");
    setChosen([]);
  }
  const touch = (on: boolean) =>
    `min-h-12 px-1 ${on ? "border border-base-content bg-base-content text-base-100" : "plain"}`;
  return (
    <BookFrame {...props} task="note" layer="plan">
      <div role="group" aria-label="What happened" className="mt-1.5 grid grid-cols-3 gap-1.5">
        {NEAR.map((key) => (
          <button
            key={key}
            type="button"
            aria-pressed={kind === key}
            className={touch(kind === key)}
            onClick={() => setKind(key)}
          >
            {names.get(key) ?? key}
          </button>
        ))}
      </div>
      <label className="mt-2 block">
        In a few words
        <input
          className="entry min-h-12"
          value={text}
          maxLength={400}
          onChange={(event) => setText(event.target.value)}
        />
      </label>
      {kind === "spray" && (
        <label className="mt-1 block">
          Re-entry interval on the label, hours
          <input
            className="entry min-h-12 w-28 text-right"
            inputMode="numeric"
            value={hours}
            onChange={(event) => setHours(event.target.value.replace(/\D/g, ""))}
          />
        </label>
      )}
      <fieldset className="mt-2">
        <legend className="font-semibold">On {where(chosen)}</legend>
        <div className="mt-1 flex flex-wrap gap-1.5">
          {trial.strips.map((item) => (
            <button
              key={item.id}
              type="button"
              aria-pressed={chosen.includes(item.id)}
              aria-label={`Strip ${item.order}`}
              className={`${touch(chosen.includes(item.id))} min-w-12`}
              onClick={() => toggle(item.id)}
            >
              {item.order}
            </button>
          ))}
        </div>
      </fieldset>
      <button
        type="button"
        className="act mt-1 min-h-16 text-xl"
        disabled={!kind || !text.trim()}
        onClick={() => void record()}
      >
        Note it
      </button>
      <BookList
        label="Notes on this strip"
        lines={lines}
        onTakeBack={(id) =>
          void takeBack(
            lines.find((line) => line.id === id),
            outbox,
            owner,
          )
        }
      />
    </BookFrame>
  );
}
