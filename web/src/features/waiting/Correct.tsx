import { useId, useState } from "react";
import { useTrial } from "../../api/queries";
import { dropWaiting, keepWaiting, type Waiting } from "../fieldbook/outbox";
import { corrected, entriesOf, heldOf, lineOf, momentOf, nameOf } from "./describe";

type Props = { waiting: Waiting; onDone: () => void };

/** Local time for a field of date and time, and back. */
const forField = (iso: string) => {
  const at = new Date(iso);
  return Number.isNaN(at.getTime())
    ? ""
    : new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
};

/** One record that the server would not take: why, both versions where there are two, and the ways on. */
export function Correct({ waiting, onDone }: Props) {
  const id = useId();
  const trial = useTrial(waiting.trialId);
  const entries = entriesOf(waiting);
  const [texts, setTexts] = useState<Record<string, string>>({});
  const [stripId, setStripId] = useState(waiting.stripId);
  const [at, setAt] = useState(() => forField(momentOf(waiting)));
  const [sure, setSure] = useState(false);
  const [problem, setProblem] = useState("");
  const current = waiting.refusal?.current ?? null;
  const conflict = waiting.refusal?.status === 409 && current !== null && typeof current.version === "number";
  const fixed = (): Waiting => {
    const moment = at === forField(momentOf(waiting)) ? momentOf(waiting) : new Date(at).toISOString();
    return { ...corrected(waiting, texts, stripId, moment), refused: null, refusal: undefined, tries: 0, retryAt: 0 };
  };
  async function act(work: () => Promise<unknown>) {
    try {
      await work();
      onDone();
    } catch {
      setProblem("This device did not take the change. The record is kept as it was.");
    }
  }
  const again = () => act(() => keepWaiting(fixed()));
  const over = () =>
    act(() => {
      const next = fixed();
      if (next.kind === "void") return keepWaiting({ ...next, version: Number(current?.version) });
      return keepWaiting({ ...next, body: { ...next.body, version: Number(current?.version) } } as Waiting);
    });
  const asNew = () =>
    act(async () => {
      await keepWaiting({ ...fixed(), id: crypto.randomUUID() } as Waiting);
      await dropWaiting(waiting.id);
    });
  const asNote = () =>
    act(async () => {
      const moment = momentOf(waiting);
      const text = `${lineOf(waiting)} (not taken as a record: ${waiting.refused ?? ""})`.slice(0, 400);
      await keepWaiting({
        id: crypto.randomUUID(),
        kind: "event",
        person: waiting.person,
        workspaceId: waiting.workspaceId,
        trialId: waiting.trialId,
        stripId,
        refused: null,
        made: Date.now(),
        clock: waiting.clock,
        words: text,
        body: {
          kind: "note",
          text,
          happened_on: moment.slice(0, 10),
          strip_ids: [stripId],
          reentry_hours: null,
          recorded_at: moment,
        },
      } as Waiting);
      await dropWaiting(waiting.id);
    });
  const strip = trial.data?.strips.find((item) => item.id === waiting.stripId);
  return (
    <div>
      <p className="font-semibold">
        {nameOf(waiting)}
        {strip && `, strip ${strip.order}`}
        {trial.data && <span className="muted font-normal">, {trial.data.title}</span>}
      </p>
      <p className="text-error">{waiting.refused}</p>
      <div className={conflict ? "mt-2 grid gap-3 sm:grid-cols-2" : "mt-2"}>
        <fieldset className="space-y-2">
          <legend className="font-medium">{conflict ? "Yours, on this device" : "As recorded"}</legend>
          {waiting.kind !== "void" && trial.data && (
            <label className="block" htmlFor={`${id}-strip`}>
              Strip
              <select
                id={`${id}-strip`}
                className="entry min-h-11"
                value={stripId}
                onChange={(event) => setStripId(event.target.value)}
              >
                {trial.data.strips.map((item) => (
                  <option key={item.id} value={item.id}>
                    {item.order}, {item.block_name}
                  </option>
                ))}
              </select>
            </label>
          )}
          {entries.map((entry) => (
            <label key={entry.key} className="block">
              {entry.label}
              {entry.unit ? `, ${entry.unit}` : ""}
              <input
                className="entry min-h-11"
                value={texts[entry.key] ?? entry.text}
                onChange={(event) => setTexts({ ...texts, [entry.key]: event.target.value })}
              />
            </label>
          ))}
          <label className="block">
            Recorded at
            <input
              className="entry min-h-11"
              type="datetime-local"
              value={at}
              onChange={(event) => setAt(event.target.value)}
            />
          </label>
        </fieldset>
        {conflict && current && (
          <section aria-label="On the server">
            <p className="font-medium">On the server, version {String(current.version)}</p>
            <dl className="mt-1">
              {heldOf(current).map(([label, text]) => (
                <div key={label} className="flex justify-between gap-3 border-b border-base-300 py-1">
                  <dt className="muted">{label}</dt>
                  <dd>{text}</dd>
                </div>
              ))}
            </dl>
            {current.voided === true && <p className="muted">It was voided there.</p>}
          </section>
        )}
      </div>
      {problem && (
        <p role="alert" className="font-medium text-error">
          {problem}
        </p>
      )}
      <div className="mt-3 flex flex-wrap gap-2">
        {conflict ? (
          <>
            <button type="button" className="act min-h-11" onClick={() => void over()}>
              Use mine
            </button>
            <button type="button" className="plain min-h-11" onClick={() => void act(() => dropWaiting(waiting.id))}>
              Keep the server's
            </button>
            {waiting.kind !== "void" && (
              <button type="button" className="plain min-h-11" onClick={() => void asNew()}>
                Add mine as a record of its own
              </button>
            )}
          </>
        ) : (
          <button type="button" className="act min-h-11" onClick={() => void again()}>
            Send again
          </button>
        )}
        {waiting.kind !== "photo" && waiting.kind !== "void" && waiting.kind !== "event" && (
          <button type="button" className="plain min-h-11" onClick={() => void asNote()}>
            Keep as a note
          </button>
        )}
        {sure ? (
          <button
            type="button"
            className="plain min-h-11 text-error"
            onClick={() => void act(() => dropWaiting(waiting.id))}
          >
            Discard for good
          </button>
        ) : (
          <button type="button" className="plain min-h-11" onClick={() => setSure(true)}>
            Discard
          </button>
        )}
      </div>
    </div>
  );
}
