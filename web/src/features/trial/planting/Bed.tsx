import { type FormEvent, useState } from "react";
import { ask, client, type Schemas } from "../../../api/client";
import { useTrialChanged } from "../../../api/queries";
import { faultOf, useSaving } from "../../../app/saving";
import { ChoiceField, QuantityField, TextField } from "../../../ui/fields";
import { Problem } from "../../../ui/Problem";
import { blankIn } from "../../../ui/readerUnits";
import { Worked } from "../../../ui/working";
import { writtenDay } from "../../../ui/writing";
import { VoidRecord } from "../VoidRecord";
import type { PlantingProps } from "./Otherwise";

type Draft = Schemas["SeedbedCheckIn"];
const STATES = { good: "good", watch: "watch", poor: "poor", unknown: "not known" };

/** The bed as found, judged for the crop; both schools of depth side by side. */
export function Bed({ stage, planting }: PlantingProps) {
  const latest = planting.seedbed[0];
  const schools = latest?.schools ?? planting.schools;
  return (
    <>
      {latest && <Judged check={latest} stage={stage} />}
      {schools.length > 0 && <Schools schools={schools} />}
      {stage.writable && <Check stage={stage} planting={planting} />}
      {planting.seedbed.slice(1).map((check) => (
        <p key={check.id} className="mt-2">
          <b>{writtenDay(check.checked_on)}</b>: {check.overall_words}.{" "}
          <span className="muted">{check.recorded_by}</span>
        </p>
      ))}
    </>
  );
}

function Judged({ check, stage }: { check: Schemas["SeedbedCheckOut"]; stage: PlantingProps["stage"] }) {
  return (
    <section aria-label="The seedbed" className="mb-3">
      <h2>
        {check.overall_words} <span className="muted font-normal">{writtenDay(check.checked_on)}</span>
      </h2>
      <table className="figures max-w-4xl">
        <tbody>
          {check.findings.map((finding) => (
            <tr key={finding.check}>
              <td className="whitespace-nowrap font-semibold">{finding.check}</td>
              <td
                className={`whitespace-nowrap ${finding.state === "poor" ? "font-semibold text-error" : finding.state === "unknown" ? "muted" : "font-semibold"}`}
              >
                {STATES[finding.state]}
              </td>
              <td>
                {finding.reason} {finding.source && <span className="muted text-sm">({finding.source})</span>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {check.note && <p className="mt-1">{check.note}</p>}
      {stage.writable && (
        <VoidRecord
          trialId={stage.trial.id}
          kind="seedbed-check"
          record={check}
          what={`the check of ${writtenDay(check.checked_on)}`}
        />
      )}
    </section>
  );
}

function Schools({ schools }: { schools: Schemas["SchoolOut"][] }) {
  return (
    <section aria-label="Two schools of depth" className="grid max-w-4xl gap-4 md:grid-cols-2">
      {schools.map((school) => (
        <div key={school.title} className="sheet p-2.5">
          <h3>{school.title}</h3>
          <p className="text-2xl font-semibold">
            <Worked working={school.working}>{school.depth ?? "no depth to give"}</Worked>
          </p>
          <p>{school.verdict}</p>
          {school.risks.length > 0 && (
            <>
              <p className="mt-1 font-semibold">What it risks</p>
              <ul className="list-disc pl-5">
                {school.risks.map((risk) => (
                  <li key={risk}>{risk}</li>
                ))}
              </ul>
            </>
          )}
        </div>
      ))}
    </section>
  );
}

function Check({ stage, planting }: PlantingProps) {
  const { trial, reader } = stage;
  const changed = useTrialChanged(trial.id);
  const { save } = useSaving();
  const blank = (): Draft => ({
    checked_on: new Date().toISOString().slice(0, 10),
    boot_sink: blankIn(reader, "depth_dug"),
    soil_temperature: blankIn(reader, "temperature"),
    ph: { text: "", unit: "" },
    residue: { text: "", unit: "%" },
    moisture_line: blankIn(reader, "depth"),
    seeds_on_top: blankIn(reader, "density_dense"),
    weeds: "",
    texture: "loam",
    note: "",
    recorded_at: new Date().toISOString(),
  });
  const [draft, setDraft] = useState(blank);
  const [id, setId] = useState(() => crypto.randomUUID());
  const [problem, setProblem] = useState<{ field: string | null; message: string } | null>(null);
  const put = (part: Partial<Draft>) => setDraft((now) => ({ ...now, ...part }));
  const quantity = (
    name: "boot_sink" | "soil_temperature" | "ph" | "residue" | "moisture_line" | "seeds_on_top",
    label: string,
    dimension: string,
  ) => (
    <QuantityField
      label={label}
      dimension={dimension}
      reader={reader}
      usual={draft[name]?.unit}
      value={draft[name] ?? { text: "", unit: "" }}
      error={problem?.field === name ? problem.message : null}
      onCommit={(value) => put({ [name]: value })}
    />
  );
  async function keep(event: FormEvent) {
    event.preventDefault();
    try {
      await save(() =>
        ask(
          client.PUT("/api/trials/{trial_id}/seedbed-checks/{check_id}", {
            params: { path: { trial_id: trial.id, check_id: id } },
            body: { ...draft, recorded_at: new Date().toISOString() },
          }),
        ),
      );
      setDraft(blank());
      setId(crypto.randomUUID());
      setProblem(null);
      changed();
    } catch (error) {
      setProblem(faultOf(error));
    }
  }
  const options = (name: string): [string, string][] =>
    (planting.kinds[name] ?? []).map(([key = "", label = ""]): [string, string] => [key, label.toLowerCase()]);
  return (
    <form
      onSubmit={keep}
      aria-label="Check the bed"
      className="sheet mt-4 grid grid-cols-2 items-start gap-3 p-3 md:grid-cols-4"
    >
      <h2 className="col-span-full">Check the bed; leave empty what was not measured</h2>
      <TextField label="Day" type="date" value={draft.checked_on} onCommit={(checked_on) => put({ checked_on })} />
      {quantity("boot_sink", "A boot sinks", "length")}
      {quantity("soil_temperature", "Soil temperature at depth", "temperature")}
      {quantity("moisture_line", "Depth of the moisture line", "length")}
      {quantity("ph", "Soil pH", "count")}
      {quantity("residue", "Ground under residue", "percent")}
      <ChoiceField
        label="Weeds standing"
        value={draft.weeds ?? ""}
        options={[["", "not looked"], ...options("weeds")]}
        onCommit={(weeds) => put({ weeds: weeds as Draft["weeds"] })}
      />
      <ChoiceField
        label="Soil"
        value={draft.texture ?? "loam"}
        options={options("texture")}
        onCommit={(texture) => put({ texture: texture as Draft["texture"] })}
      />
      {planting.small_seeded && quantity("seeds_on_top", "Seeds left on top", "areal_density")}
      <TextField label="Note" value={draft.note ?? ""} onCommit={(note) => put({ note })} />
      <div className="col-span-full">
        <button type="submit" className="act">
          Judge and keep
        </button>
        <Problem>
          {problem &&
            !["soil_temperature", "ph", "residue", "moisture_line", "seeds_on_top", "boot_sink"].includes(
              problem.field ?? "",
            ) &&
            problem.message}
        </Problem>
      </div>
    </form>
  );
}
