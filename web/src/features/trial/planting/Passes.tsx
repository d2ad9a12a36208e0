import { type FormEvent, useState } from "react";
import { ask, client, type Schemas } from "../../../api/client";
import { useMachines, useTrialChanged } from "../../../api/queries";
import { faultOf, useSaving } from "../../../app/saving";
import { ChoiceField, QuantityField, TextField } from "../../../ui/fields";
import { Problem } from "../../../ui/Problem";
import { blankIn } from "../../../ui/readerUnits";
import { writtenDay } from "../../../ui/writing";
import { VoidRecord } from "../VoidRecord";
import type { PlantingProps } from "./Otherwise";

type Draft = Schemas["TillagePassIn"];

/** Passes over the ground with their dates, before and after planting. */
export function Passes({ stage, planting }: PlantingProps) {
  const { trial, writable } = stage;
  const orders = (ids: string[]) => trial.strips.filter((strip) => ids.includes(strip.id)).map((strip) => strip.order);
  return (
    <>
      {planting.tillage.length ? (
        <table aria-label="Passes over the ground" className="figures">
          <thead>
            <tr>
              <th>Day</th>
              <th>Pass</th>
              <th className="num">Times</th>
              <th className="num">Depth</th>
              <th>Strips</th>
              <th>Note</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {planting.tillage.map((tillagePass) => (
              <tr key={tillagePass.id}>
                <td className="whitespace-nowrap">
                  {writtenDay(tillagePass.done_on)} <span className="muted">{tillagePass.when}</span>
                </td>
                <td>
                  {tillagePass.kind_name}
                  {tillagePass.machine && <span className="muted">, {tillagePass.machine}</span>}
                </td>
                <td className="num">{tillagePass.times}</td>
                <td className="num">{tillagePass.depth.shown}</td>
                <td>{tillagePass.strip_ids.length ? orders(tillagePass.strip_ids).join(", ") : "all"}</td>
                <td>{tillagePass.note}</td>
                <td>
                  {writable && (
                    <VoidRecord
                      trialId={trial.id}
                      kind="tillage-pass"
                      record={tillagePass}
                      what={`${tillagePass.kind_name} of ${writtenDay(tillagePass.done_on)}`}
                    />
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : (
        <p className="muted">No pass noted yet.</p>
      )}
      {writable && <AddPass stage={stage} planting={planting} />}
    </>
  );
}

function AddPass({ stage, planting }: PlantingProps) {
  const { trial, reader } = stage;
  const machines = useMachines(trial.workspace_id);
  const changed = useTrialChanged(trial.id);
  const { save } = useSaving();
  const blank = (): Draft => ({
    done_on: new Date().toISOString().slice(0, 10),
    kind: "harrow",
    machine_id: null,
    times: 1,
    depth: blankIn(reader, "depth"),
    strip_ids: [],
    note: "",
    recorded_at: new Date().toISOString(),
  });
  const [draft, setDraft] = useState(blank);
  const [on, setOn] = useState("");
  const [id, setId] = useState(() => crypto.randomUUID());
  const [problem, setProblem] = useState("");
  const put = (part: Partial<Draft>) => setDraft((now) => ({ ...now, ...part }));
  async function add(event: FormEvent) {
    event.preventDefault();
    const strip_ids = on
      ? trial.strips.filter((strip) => hasLevel(trial, strip.treatment_id, on)).map((strip) => strip.id)
      : [];
    try {
      await save(() =>
        ask(
          client.PUT("/api/trials/{trial_id}/tillage-passes/{pass_id}", {
            params: { path: { trial_id: trial.id, pass_id: id } },
            body: { ...draft, strip_ids, recorded_at: new Date().toISOString() },
          }),
        ),
      );
      setDraft(blank());
      setId(crypto.randomUUID());
      setProblem("");
      changed();
    } catch (error) {
      setProblem(faultOf(error).message);
    }
  }
  return (
    <form
      onSubmit={add}
      aria-label="Add a pass"
      className="sheet mt-4 grid grid-cols-2 items-start gap-3 p-3 md:grid-cols-4"
    >
      <TextField label="Day" type="date" value={draft.done_on} onCommit={(done_on) => put({ done_on })} />
      <ChoiceField
        label="Pass"
        value={draft.kind}
        options={(planting.kinds.pass ?? []).map(([key = "", name = ""]): [string, string] => [key, name])}
        onCommit={(kind) => put({ kind: kind as Draft["kind"] })}
      />
      <ChoiceField
        label="Machine"
        value={draft.machine_id ?? ""}
        options={[
          ["", "not said"],
          ...(machines.data ?? []).map((machine): [string, string] => [machine.id, machine.name]),
        ]}
        onCommit={(machine) => put({ machine_id: machine || null })}
      />
      <TextField
        label="Times"
        inputMode="numeric"
        value={String(draft.times)}
        onCommit={(text) => put({ times: Number.parseInt(text, 10) || 0 })}
      />
      <QuantityField
        label="Working depth"
        dimension="length"
        reader={reader}
        usual={draft.depth?.unit}
        value={draft.depth ?? { text: "", unit: "cm" }}
        onCommit={(depth) => put({ depth })}
      />
      <ChoiceField label="On" value={on} options={[["", "all strips"], ...levels(trial)]} onCommit={setOn} />
      <div className="col-span-2">
        <TextField label="Note" value={draft.note ?? ""} onCommit={(note) => put({ note })} />
      </div>
      <div className="col-span-full">
        <button type="submit" className="act">
          Note the pass
        </button>
        <Problem>{problem}</Problem>
      </div>
    </form>
  );
}

type Trial = PlantingProps["stage"]["trial"];

/** Every level as a choice of strips, keyed by the places of factor and level. */
const levels = (trial: Trial): [string, string][] =>
  trial.factors.flatMap((factor, place) =>
    factor.level_names.map((name, number): [string, string] => [`${place}/${number}`, `strips with ${name}`]),
  );

function hasLevel(trial: Trial, treatmentId: string, key: string): boolean {
  const [place = 0, number = 0] = key.split("/").map(Number);
  const wanted = trial.factors[place]?.levels[number];
  const level = trial.treatments.find((treatment) => treatment.id === treatmentId)?.levels[place];
  return Boolean(wanted && level && wanted.text === level.text && wanted.unit === level.unit);
}
