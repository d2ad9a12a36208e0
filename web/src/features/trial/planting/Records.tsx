import { useState } from "react";
import { Link } from "react-router";
import { ask, client, Fault, type Schemas, type Typed } from "../../../api/client";
import { useMachines, useTrialChanged } from "../../../api/queries";
import { faultOf, useSaving } from "../../../app/saving";
import { saveCsv } from "../../../ui/csv";
import { ChoiceField, QuantityField, TextField } from "../../../ui/fields";
import { Stake } from "../../../ui/marks";
import { Problem } from "../../../ui/Problem";
import { blankIn } from "../../../ui/readerUnits";
import { writtenMoment } from "../../../ui/writing";
import { VoidRecord } from "../VoidRecord";
import type { PlantingProps } from "./Otherwise";

/** How each strip was sown, beside what was planned; several strips in one go. */
export function Records({ stage, planting }: PlantingProps) {
  const { trial, writable, select } = stage;
  const of = new Map(planting.strips.map((strip) => [strip.strip_id, strip]));
  if (!trial.strips.length) return <p className="muted">Draw the layout first; records hang on its strips.</p>;
  return (
    <>
      {writable && (
        <Link className="act mb-2 inline-block" to={`/trials/${trial.id}/fieldbook?task=sowing`}>
          Planting day in the field book
        </Link>
      )}
      {writable && <Bulk stage={stage} planting={planting} />}
      <table aria-label="How each strip was sown" className="figures mt-3">
        <thead>
          <tr>
            <th className="num">Strip</th>
            <th>Planned</th>
            <th>Sown</th>
            <th>Setting</th>
            <th className="num">Rate sown</th>
            <th className="num">Speed</th>
            <th>Machine, lot</th>
            <th>Soil, weather, note</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {trial.strips.map((strip) => {
            const row = of.get(strip.id);
            const treatment = trial.treatments.find((item) => item.id === strip.treatment_id);
            const record = row?.records.at(-1);
            return (
              <tr key={strip.id}>
                <td className="num">
                  <button type="button" className="underline" onClick={() => select(strip)}>
                    {strip.order}
                  </button>
                </td>
                <td className="whitespace-nowrap">
                  {treatment && <Stake letter={treatment.letter} position={treatment.position} />} {row?.planned_rate}
                  {row?.planned_mass && <span className="muted">, {row.planned_mass}</span>}
                </td>
                <td className="whitespace-nowrap">
                  {row?.records.map((of) => (
                    <div key={of.id}>
                      {of.way === "again" && "sown again "}
                      {of.way === "pass" && "another pass "}
                      {writtenMoment(of.sown_at)}
                    </div>
                  ))}
                  {!record && strip.lost && "lost"}
                </td>
                <td>{record?.setting}</td>
                <td className="num">
                  {record?.rate.shown}
                  {record?.rate_off && <span className="muted"> {record.rate_off}</span>}
                </td>
                <td className="num">{record?.speed.shown}</td>
                <td>{[record?.machine, record?.lot].filter(Boolean).join(", ")}</td>
                <td>
                  {[record?.soil_name, record?.weather, record?.note].filter(Boolean).join(", ")}
                  {strip.deviations.length > 0 && <b> {strip.deviations.join(", ")}</b>}
                </td>
                <td>
                  {writable && record && (
                    <VoidRecord
                      trialId={trial.id}
                      kind="planting-record"
                      record={record}
                      what={`the record of strip ${strip.order}`}
                    />
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <button type="button" className="plain no-print mt-2" onClick={() => save(stage, of)}>
        Save as CSV
      </button>
    </>
  );
}

function save({ trial }: PlantingProps["stage"], of: Map<string, Schemas["StripPlantingOut"]>) {
  saveCsv("planting.csv", [
    [
      "strip",
      "planned",
      "as done",
      "sown at",
      "setting",
      "rate",
      "off",
      "speed",
      "machine",
      "lot",
      "soil",
      "weather",
      "note",
      "depth",
      "deviations",
    ],
    ...trial.strips.map((strip) => {
      const record = of.get(strip.id)?.records.at(-1);
      const letter = (id: string) => trial.treatments.find((treatment) => treatment.id === id)?.letter ?? "";
      return [
        strip.order,
        letter(strip.treatment_id),
        strip.lost ? "lost" : letter(strip.received_id),
        record?.sown_at ?? "",
        record?.setting ?? "",
        record?.rate.shown ?? "",
        record?.rate_off ?? "",
        record?.speed.shown ?? "",
        record?.machine ?? "",
        record?.lot ?? "",
        record?.soil_name ?? "",
        record?.weather ?? "",
        record?.note ?? "",
        strip.depth?.text ?? "",
        (of.get(strip.id)?.deviations ?? []).map((deviation) => deviation.words).join("; "),
      ];
    }),
  ]);
}

/** One record for several strips at once: the strips without one, or those of a treatment. */
function Bulk({ stage, planting }: PlantingProps) {
  const { trial, reader, selected } = stage;
  const machines = useMachines(trial.workspace_id);
  const changed = useTrialChanged(trial.id);
  const { save: keep } = useSaving();
  const [on, setOn] = useState("left");
  const [way, setWay] = useState<Schemas["PlantingRecordIn"]["way"]>("first");
  const [at, setAt] = useState(() => local(new Date()));
  const [machine, setMachine] = useState("");
  const [setting, setSetting] = useState("");
  const [soil, setSoil] = useState("");
  const [weather, setWeather] = useState("");
  const [note, setNote] = useState("");
  const [rate, setRate] = useState<Typed>(blankIn(reader, "seed_rate_mass"));
  const [speed, setSpeed] = useState<Typed>(blankIn(reader, "speed"));
  const [problem, setProblem] = useState("");
  const standing = trial.strips.filter((strip) => !strip.lost);
  const left = standing.filter((strip) => !strip.sown);
  const open = way === "first" ? left : standing.filter((strip) => strip.sown);
  const strips =
    on === "left"
      ? open
      : open.filter((strip) => strip.treatment_id === on || strip.id === on || strip.block_name === on);
  const blocks = [...new Set(trial.strips.map((strip) => strip.block_name))];
  const planters = (machines.data ?? []).filter((item) => item.kind === "planter");

  async function record() {
    const body = {
      sown_at: new Date(at).toISOString(),
      way,
      machine_id: machine || null,
      setting,
      soil: soil as Schemas["PlantingRecordIn"]["soil"],
      weather,
      note,
      rate,
      speed,
      recorded_at: new Date().toISOString(),
    };
    try {
      await keep(() =>
        ask(
          client.POST("/api/trials/{trial_id}/planting-sheet", {
            params: { path: { trial_id: trial.id } },
            body: { rows: strips.map((strip) => ({ ...body, id: crypto.randomUUID(), strip_id: strip.id })) },
          }),
        ),
      );
      setProblem("");
      changed();
    } catch (error) {
      const first = error instanceof Fault ? error.problems[0] : undefined;
      setProblem(first ? first.message : faultOf(error).message);
    }
  }

  return (
    <details className="sheet px-3">
      <summary className="cursor-pointer py-1.5 font-semibold">
        {left.length ? `Record strips: ${left.length} without a record` : "Every strip has its record"}
      </summary>
      <div className="grid grid-cols-2 items-start gap-3 pb-3 md:grid-cols-4">
        <ChoiceField
          label="Sowing"
          value={way}
          options={(planting.kinds.way ?? []).map(([key = "", name = ""]): [string, string] => [key, name])}
          onCommit={(chosen) => setWay(chosen as typeof way)}
        />
        <ChoiceField
          label="For"
          value={on}
          options={[
            ["left", way === "first" ? "all strips without a record" : "all strips with a record"],
            ...trial.treatments.map((treatment): [string, string] => [
              treatment.id,
              `those of ${treatment.letter}, ${treatment.name}`,
            ]),
            ...blocks.map((block): [string, string] => [block, block]),
            ...(selected ? [[selected.id, `strip ${selected.order}`] as [string, string]] : []),
          ]}
          onCommit={setOn}
        />
        <label>
          When
          <input type="datetime-local" className="entry" value={at} onChange={(event) => setAt(event.target.value)} />
        </label>
        <ChoiceField
          label="Machine"
          value={machine}
          options={[["", "not said"], ...planters.map((planter): [string, string] => [planter.id, planter.name])]}
          onCommit={setMachine}
        />
        <TextField label="Setting" value={setting} onCommit={setSetting} />
        <QuantityField
          label="Rate sown"
          dimension="seeding_rate"
          reader={reader}
          usual={rate.unit}
          value={rate}
          onCommit={setRate}
        />
        <QuantityField label="Speed" dimension="speed" reader={reader} value={speed} onCommit={setSpeed} />
        <ChoiceField
          label="Soil"
          value={soil}
          options={[
            ["", "not said"],
            ...(planting.kinds.soil ?? []).map(([key = "", name = ""]): [string, string] => [key, name]),
          ]}
          onCommit={setSoil}
        />
        <TextField label="Weather" value={weather} onCommit={setWeather} />
        <div className="col-span-2">
          <TextField label="Operator's note" value={note} onCommit={setNote} />
        </div>
        <div className="col-span-full">
          <button type="button" className="act" disabled={!strips.length} onClick={() => void record()}>
            Record {strips.length} {strips.length === 1 ? "strip" : "strips"}
          </button>
          <Problem>{problem}</Problem>
        </div>
      </div>
    </details>
  );
}

/** A time as the browser's own field takes it. */
function local(at: Date): string {
  return new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
}
