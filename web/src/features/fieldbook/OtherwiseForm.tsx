import { useState } from "react";
import type { Schemas, Strip, Trial } from "../../api/client";

type Kind = Schemas["DeviationIn"]["kind"];
export type Deviated = {
  kind: Kind;
  rows: number | null;
  sown_treatment_id: string | null;
  note: string;
  words: string;
};
const GOT: Kind[] = ["wrong_setting", "wrong_strip", "double"];

type Props = {
  trial: Trial;
  strip: Strip;
  kinds: string[][];
  record: (deviated: Deviated) => void;
  close: () => void;
};

/** What went otherwise on a strip, in few touches: which kind, what it got, how many rows, a word. */
export function OtherwiseForm({ trial, strip, kinds, record, close }: Props) {
  const [kind, setKind] = useState<Kind | "">("");
  const [got, setGot] = useState("");
  const [rows, setRows] = useState("");
  const [note, setNote] = useState("");
  const asks = kind !== "" && GOT.includes(kind);
  const letter = trial.treatments.find((treatment) => treatment.id === got)?.letter;
  const said = kinds.find(([key]) => key === kind)?.[1] ?? "";
  const ready = kind !== "" && (kind !== "other" || note.trim() !== "") && (kind !== "wrong_setting" || got !== "");
  const touch = (on: boolean) =>
    `min-h-12 border px-2 ${on ? "border-base-content bg-base-content text-base-100" : "plain"}`;
  return (
    <section aria-label="Went otherwise" className="sheet mt-2 space-y-2 p-2">
      <div role="group" aria-label="What went otherwise" className="grid grid-cols-2 gap-1.5">
        {kinds.map(([key = "", name]) => (
          <button
            key={key}
            type="button"
            aria-pressed={kind === key}
            className={touch(kind === key)}
            onClick={() => setKind(key as Kind)}
          >
            {name}
          </button>
        ))}
      </div>
      {asks && (
        <div role="group" aria-label="It got" className="flex flex-wrap items-center gap-1.5">
          It got
          {trial.treatments.map((treatment) => (
            <button
              key={treatment.id}
              type="button"
              aria-pressed={got === treatment.id}
              className={`${touch(got === treatment.id)} min-w-12`}
              onClick={() => setGot(got === treatment.id ? "" : treatment.id)}
            >
              {treatment.letter}
              <span className="sr-only">: {treatment.name}</span>
              {treatment.id === strip.treatment_id && <span className="text-sm"> planned</span>}
            </button>
          ))}
        </div>
      )}
      {(kind === "skip" || kind === "plugged_row" || kind === "double") && (
        <label className="flex items-center gap-2">
          Rows
          <input
            className="entry min-h-12 w-20 text-right"
            inputMode="numeric"
            value={rows}
            onChange={(event) => setRows(event.target.value.replace(/\D/g, ""))}
          />
        </label>
      )}
      <label className="block">
        In a word
        <input className="entry min-h-12" value={note} onChange={(event) => setNote(event.target.value)} />
      </label>
      <div className="grid grid-cols-2 gap-1.5">
        <button type="button" className="plain min-h-12" onClick={close}>
          Leave it
        </button>
        <button
          type="button"
          className="act min-h-12"
          disabled={!ready}
          onClick={() =>
            record({
              kind: kind as Kind,
              rows: rows ? Number(rows) : null,
              sown_treatment_id: asks && got ? got : null,
              note: note.trim(),
              words: [said, rows && `${rows} rows`, asks && letter && `got ${letter}`, note.trim()]
                .filter(Boolean)
                .join(", "),
            })
          }
        >
          Record it
        </button>
      </div>
    </section>
  );
}
