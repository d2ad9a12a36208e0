import { type FormEvent, useState } from "react";
import { ask, client, type Schemas } from "../../../api/client";
import { useCatalogue, useFieldEvents, useTrialChanged } from "../../../api/queries";
import { faultOf, useSaving } from "../../../app/saving";
import { saveCsv } from "../../../ui/csv";
import { Waiting } from "../../../ui/Waiting";
import { writtenDay } from "../../../ui/writing";
import type { Stage } from "../TrialFrame";
import { VoidRecord } from "../VoidRecord";

type Kind = Schemas["FieldEventIn"]["kind"];

/** The season's log: what happened to all strips, and above all what hit only some. */
export function Log({ stage }: { stage: Stage }) {
  const events = useFieldEvents(stage.trial.id);
  const orders = (ids: string[]) =>
    stage.trial.strips.filter((strip) => ids.includes(strip.id)).map((strip) => strip.order);
  return (
    <>
      {!events.data?.length && <p className="muted">Nothing noted yet.</p>}
      <Waiting query={events} />
      {(events.data?.length ?? 0) > 0 && (
        <table aria-label="The season so far" className="figures mt-1">
          <thead>
            <tr>
              <th>Day</th>
              <th>What</th>
              <th>Note</th>
              <th>Strips</th>
              <th>By</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {events.data?.map((event) => (
              <tr key={event.id}>
                <td className="whitespace-nowrap">{writtenDay(event.happened_on)}</td>
                <td>{event.kind_label}</td>
                <td>
                  {event.text}
                  {event.reentry_hours !== null && (
                    <span className="muted"> Re-entry {event.reentry_hours} h by the label.</span>
                  )}
                </td>
                <td>{event.strip_ids.length ? orders(event.strip_ids).join(", ") : "all"}</td>
                <td className="muted">{event.recorded_by}</td>
                <td>
                  {stage.writable && (
                    <VoidRecord
                      trialId={stage.trial.id}
                      kind="field-event"
                      record={event}
                      what={`${event.kind_label} of ${writtenDay(event.happened_on)}`}
                    />
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {(events.data?.length ?? 0) > 0 && (
        <button
          type="button"
          className="plain no-print mt-2"
          onClick={() =>
            saveCsv("season.csv", [
              ["day", "kind", "note", "strips", "by"],
              ...(events.data ?? []).map((event) => [
                event.happened_on,
                event.kind_label,
                event.text,
                orders(event.strip_ids).join(" ") || "all",
                event.recorded_by,
              ]),
            ])
          }
        >
          Save as CSV
        </button>
      )}
      {stage.writable && <AddEvent {...stage} />}
    </>
  );
}

function AddEvent({ trial }: Stage) {
  const catalogue = useCatalogue();
  const changed = useTrialChanged(trial.id);
  const { save } = useSaving();
  const [kind, setKind] = useState<Kind>("note");
  const [day, setDay] = useState(new Date().toISOString().slice(0, 10));
  const [text, setText] = useState("");
  const [chosen, setChosen] = useState<string[]>([]);
  const [hours, setHours] = useState("");
  const [problem, setProblem] = useState("");
  const [id, setId] = useState(() => crypto.randomUUID());

  async function add(event: FormEvent) {
    event.preventDefault();
    try {
      const kept = await save(
        () =>
          ask(
            client.PUT("/api/trials/{trial_id}/field-events/{event_id}", {
              params: { path: { trial_id: trial.id, event_id: id } },
              body: {
                kind,
                text,
                happened_on: day,
                strip_ids: chosen,
                reentry_hours: kind === "spray" && hours ? Number(hours) : null,
                recorded_at: new Date().toISOString(),
              },
            }),
          ),
        {
          label: "note",
          run: async () => {
            await ask(
              client.POST("/api/records/{kind}/{record_id}/void", {
                params: { path: { kind: "field-event", record_id: id } },
                body: { voided: true, reason: "taken back", version: 1 },
              }),
            );
            changed();
          },
        },
      );
      if (kept) {
        setText("");
        setHours("");
        setChosen([]);
        setProblem("");
        setId(crypto.randomUUID());
        changed();
      }
    } catch (error) {
      setProblem(faultOf(error).message);
    }
  }

  return (
    <form onSubmit={add} className="sheet mt-4 grid items-end gap-3 p-3 md:grid-cols-[10rem_10rem_1fr_auto]">
      <label>
        What happened
        <select className="entry" value={kind} onChange={(event) => setKind(event.target.value as Kind)}>
          {catalogue.data?.event_kinds.map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </select>
      </label>
      <label>
        Day
        <input type="date" className="entry" value={day} onChange={(event) => setDay(event.target.value)} />
      </label>
      <label>
        In a few words
        <input className="entry" value={text} onChange={(event) => setText(event.target.value)} />
      </label>
      <button type="submit" className="act">
        Note it
      </button>
      {kind === "spray" && (
        <label className="md:col-span-2">
          Re-entry interval on the label, hours
          <input
            className="entry"
            inputMode="numeric"
            value={hours}
            onChange={(event) => setHours(event.target.value.replace(/\D/g, ""))}
          />
        </label>
      )}
      <fieldset className="md:col-span-4">
        <legend>
          {chosen.length ? `On ${chosen.length} of ${trial.strips.length} strips` : "On all strips; or only on"}
        </legend>
        <div className="flex flex-wrap gap-1">
          {trial.strips.map((strip) => (
            <button
              key={strip.id}
              type="button"
              aria-pressed={chosen.includes(strip.id)}
              aria-label={`Only strip ${strip.order}`}
              className={`min-w-9 ${chosen.includes(strip.id) ? "border border-base-content bg-base-content px-2 text-base-100" : "plain"}`}
              onClick={() =>
                setChosen(
                  chosen.includes(strip.id) ? chosen.filter((item) => item !== strip.id) : [...chosen, strip.id],
                )
              }
            >
              {strip.order}
            </button>
          ))}
        </div>
      </fieldset>
      {problem && (
        <p role="alert" className="font-medium text-error md:col-span-4">
          {problem}
        </p>
      )}
    </form>
  );
}
