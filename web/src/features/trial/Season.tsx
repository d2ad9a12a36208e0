import { type FormEvent, useState } from "react";
import { ask, client, type Schemas } from "../../api/client";
import { useCatalogue, useFieldEvents, useTrialChanged } from "../../api/queries";
import { faultOf, useSaving } from "../../app/saving";
import { saveCsv } from "../../ui/csv";
import { Waiting } from "../../ui/Waiting";
import { Caution, Columns } from "./Columns";
import { type Stage, useStage } from "./TrialFrame";

type Kind = Schemas["FieldEventIn"]["kind"];

export function Season() {
  const stage = useStage();
  const events = useFieldEvents(stage.trial.id);
  const orders = (ids: string[]) =>
    stage.trial.strips.filter((strip) => ids.includes(strip.id)).map((strip) => strip.order);
  return (
    <Columns
      why={
        <>
          <p>
            A result without its season cannot be carried to another year. Note what hit all strips, and above all what
            hit only some: that is what could pass for a treatment.
          </p>
          <Caution>
            Sprays: the label decides on dose, timing, protection and re-entry. What is written here is a note, never a
            recommendation.
          </Caution>
        </>
      }
    >
      <section aria-label="The season so far" className="border-l-4 border-base-content pl-3">
        <h2>{events.data?.length ? `${events.data.length} things noted` : "Nothing noted yet"}</h2>
        <Waiting query={events} />
        <table className="figures mt-1">
          <thead>
            <tr>
              <th>Day</th>
              <th>What</th>
              <th>Note</th>
              <th>Strips</th>
              <th>By</th>
            </tr>
          </thead>
          <tbody>
            {events.data?.map((event) => (
              <tr key={event.id}>
                <td className="whitespace-nowrap">{event.happened_on}</td>
                <td>{event.kind_label}</td>
                <td>{event.text}</td>
                <td>{event.strip_ids.length ? orders(event.strip_ids).join(", ") : "all"}</td>
                <td className="muted">{event.recorded_by}</td>
              </tr>
            ))}
          </tbody>
        </table>
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
      </section>
      {stage.writable && <AddEvent {...stage} />}
    </Columns>
  );
}

function AddEvent({ trial, selected }: Stage) {
  const catalogue = useCatalogue();
  const changed = useTrialChanged(trial.id);
  const { save } = useSaving();
  const [kind, setKind] = useState<Kind>("note");
  const [day, setDay] = useState(new Date().toISOString().slice(0, 10));
  const [text, setText] = useState("");
  const [only, setOnly] = useState(false);
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
                strip_ids: only && selected ? [selected.id] : [],
                recorded_at: new Date().toISOString(),
              },
            }),
          ),
        {
          label: "note",
          run: async () => {
            await ask(
              client.POST("/api/records/{kind}/{record_id}/strike", {
                params: { path: { kind: "field-event", record_id: id } },
                body: { struck: true, reason: "taken back", version: 1 },
              }),
            );
            changed();
          },
        },
      );
      if (kept) {
        setText("");
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
      <label className="flex items-center gap-2 md:col-span-4">
        <input
          type="checkbox"
          checked={only}
          disabled={!selected}
          onChange={(event) => setOnly(event.target.checked)}
        />
        {selected ? `Only strip ${selected.order}` : "Only one strip: choose it on the ribbon first"}
      </label>
      {problem && (
        <p role="alert" className="font-medium text-error md:col-span-4">
          {problem}
        </p>
      )}
    </form>
  );
}
