import { type FormEvent, useState } from "react";
import { ask, client, type Schemas, type Typed } from "../../../api/client";
import { useMachines, useTrialChanged } from "../../../api/queries";
import { faultOf, useSaving } from "../../../app/saving";
import { ChoiceField, QuantityField, TextField, useUnits } from "../../../ui/fields";
import { Problem } from "../../../ui/Problem";
import { blankIn, type ReaderUnits } from "../../../ui/readerUnits";
import { UnitEntry } from "../../../ui/UnitEntry";
import type { SeedProps } from "./Rates";

type Draft = Schemas["CalibrationIn"];
type Method = Draft["method"];
const WAYS: Record<Method, [string, string]> = {
  length: ["Length driven", "length"],
  turns: ["Turns of the wheel", ""],
  bag: ["Area covered", "area"],
};

/** What the treatments want through the drill, as a start: the control's rate where it is known. */
function targetOf({ stage, seed }: SeedProps): Typed {
  const control = stage.trial.treatments.find((treatment) => treatment.is_control)?.id;
  const row = seed.treatments.find((treatment) => treatment.treatment_id === control) ?? seed.treatments[0];
  return row?.target ?? blankIn(stage.reader, "seed_rate_mass");
}

export function CalibrationForm({ stage, seed, onDone }: SeedProps & { onDone: () => void }) {
  const { trial, reader } = stage;
  const machines = useMachines(trial.workspace_id);
  const planters = (machines.data ?? []).filter((item) => item.kind === "planter");
  const changed = useTrialChanged(trial.id);
  const { save } = useSaving();
  const [id] = useState(() => crypto.randomUUID());
  const [problem, setProblem] = useState<{ field: string | null; message: string } | null>(null);
  const spacing = trial.row_spacing.text
    ? { text: trial.row_spacing.text, unit: trial.row_spacing.unit }
    : blankIn(reader, "row_spacing");
  const [draft, setDraft] = useState<Draft>(() => ({
    trial_id: trial.id,
    lot_id: seed.lots[0]?.id ?? "",
    machine_id: "",
    done_on: new Date().toISOString().slice(0, 10),
    method: "length",
    target: targetOf({ stage, seed }),
    tolerance: { text: "5", unit: "%" },
    openers: 3,
    row_spacing: spacing,
    circumference: blankIn(reader, "strip_length"),
    slip: { text: "", unit: "%" },
    catches: [blank("length", reader)],
    note: "",
    recorded_at: new Date().toISOString(),
  }));
  const put = (part: Partial<Draft>) => setDraft((now) => ({ ...now, ...part }));
  const machine = draft.machine_id || planters[0]?.id || "";
  const wrong = (name: string) => (problem?.field === name ? problem.message : null);
  const [way, dimension] = WAYS[draft.method];
  const masses = useUnits("mass", reader);
  const ways = useUnits(dimension || "count", reader);
  const quantity = (
    name: "target" | "tolerance" | "row_spacing" | "circumference" | "slip",
    label: string,
    kind: string,
  ) => (
    <QuantityField
      label={label}
      dimension={kind}
      reader={reader}
      value={draft[name] ?? { text: "", unit: "" }}
      error={wrong(name)}
      onCommit={(value) => put({ [name]: value })}
    />
  );

  async function keep(event: FormEvent) {
    event.preventDefault();
    try {
      await save(() =>
        ask(
          client.PUT("/api/workspaces/{workspace_id}/calibrations/{calibration_id}", {
            params: { path: { workspace_id: trial.workspace_id, calibration_id: id } },
            body: {
              ...draft,
              machine_id: machine,
              catches: draft.catches.filter((caught) => caught.mass.text || caught.way.text),
            },
          }),
        ),
      );
      changed();
      onDone();
    } catch (error) {
      setProblem(faultOf(error));
    }
  }

  return (
    <form
      onSubmit={keep}
      aria-label="Calibration"
      className="sheet mt-3 grid grid-cols-2 items-start gap-3 p-3 md:grid-cols-4"
    >
      <ChoiceField
        label="Lot in the drill"
        value={draft.lot_id}
        options={seed.lots.map((lot): [string, string] => [lot.id, lot.title])}
        onCommit={(lot_id) => put({ lot_id })}
      />
      <ChoiceField
        label="Machine"
        value={machine}
        error={wrong("machine")}
        hint={planters.length ? undefined : "Add the drill in Setup first."}
        options={planters.map((planter): [string, string] => [planter.id, planter.name])}
        onCommit={(machine_id) => put({ machine_id })}
      />
      <ChoiceField
        label="How"
        value={draft.method}
        options={[
          ["length", "over a length"],
          ["turns", "by wheel turns"],
          ["bag", "area one bag covered"],
        ]}
        onCommit={(value) => put({ method: value as Method, catches: [blank(value as Method, reader)] })}
      />
      {quantity("target", "Rate wanted", "mass_per_area")}
      {quantity("tolerance", "Accepted within", "percent")}
      {draft.method !== "bag" && (
        <>
          <TextField
            label="Openers caught"
            inputMode="numeric"
            value={draft.openers == null ? "" : String(draft.openers)}
            error={wrong("openers")}
            onCommit={(text) => put({ openers: /^\d+$/.test(text.trim()) ? Number(text) : null })}
          />
          {quantity("row_spacing", "Row spacing", "length")}
        </>
      )}
      {draft.method === "turns" && (
        <>
          {quantity("circumference", "Rolling circumference", "length")}
          {quantity("slip", "Slip in the field", "percent")}
        </>
      )}
      <fieldset className="col-span-full">
        <legend>Catches</legend>
        {draft.catches.map((caught, place) => {
          const change = (part: Partial<typeof caught>) =>
            put({ catches: draft.catches.map((other, index) => (index === place ? { ...other, ...part } : other)) });
          return (
            // biome-ignore lint/suspicious/noArrayIndexKey: catches are only ever added at the end
            <div key={place} className="asked mb-1.5">
              <label>
                Setting<span className="sr-only"> of catch {place + 1}</span>
                <input
                  className="entry w-24 text-right"
                  inputMode="decimal"
                  value={caught.setting}
                  onChange={(event) => change({ setting: event.target.value })}
                />
              </label>
              <div>
                <span className="font-medium">{draft.method === "bag" ? "Seed sown" : "Seed caught"}</span>
                <UnitEntry
                  numeric
                  label={`Weight of catch ${place + 1}`}
                  value={caught.mass}
                  units={masses}
                  onChange={(mass) => change({ mass })}
                />
              </div>
              <div>
                <span className="font-medium">{way}</span>
                <UnitEntry
                  numeric
                  label={`${way} of catch ${place + 1}`}
                  value={caught.way}
                  units={dimension ? ways : []}
                  onChange={(next) => change({ way: next })}
                />
              </div>
            </div>
          );
        })}
        <button
          type="button"
          className="underline"
          onClick={() => {
            const last = draft.catches.at(-1) ?? blank(draft.method, reader);
            put({ catches: [...draft.catches, { ...last, mass: { ...last.mass, text: "" } }] });
          }}
        >
          Another catch
        </button>
      </fieldset>
      <div className="col-span-full flex items-center gap-3">
        <button type="submit" className="act">
          Keep the calibration
        </button>
        <button type="button" className="plain" onClick={onDone}>
          Leave it
        </button>
        <Problem>
          {problem &&
            !["target", "tolerance", "openers", "row_spacing", "circumference", "slip", "machine"].includes(
              problem.field ?? "",
            ) &&
            problem.message}
        </Problem>
      </div>
    </form>
  );
}

function blank(method: Method, reader: ReaderUnits): Draft["catches"][number] {
  const way = { length: "strip_length", turns: "count", bag: "farm_area" }[method];
  return { setting: "", mass: blankIn(reader, method === "bag" ? "mass" : "catch"), way: blankIn(reader, way) };
}
