import { useState } from "react";
import { ask, client, Fault, type Schemas } from "../../api/client";
import { useHarvest, useTrialChanged } from "../../api/queries";
import { faultOf, useSaving } from "../../app/saving";
import { saveCsv } from "../../ui/csv";
import { Waiting } from "../../ui/Waiting";
import { Caution, Columns } from "./Columns";
import { HarvestGrid } from "./HarvestGrid";
import {
  type Column,
  type Drafts,
  type Method,
  NO_DRAFTS,
  rowsOf,
  sheetBefore,
  sheetBody,
  storeDrafts,
  storedDrafts,
} from "./harvestSheet";
import { type Stage, useStage } from "./TrialFrame";

export function Harvest() {
  const stage = useStage();
  const harvest = useHarvest(stage.trial.id);
  if (!harvest.data) return <Waiting query={harvest} />;
  if (!stage.trial.strips.length) return <p className="muted">There are strips to harvest once the layout is drawn.</p>;
  return <Sheet {...stage} harvest={harvest.data} />;
}

function Sheet(stage: Stage & { harvest: Schemas["HarvestOut"] }) {
  const { trial, harvest, writable } = stage;
  const stated = harvest.strips.some((strip) => strip.loads.some((load) => load.method === "stated"));
  const [method, setMethod] = useState<Method>(stated ? "stated" : "weighed");
  const [drafts, setDrafts] = useState<Drafts>(() => storedDrafts(trial.id, method));
  const [problems, setProblems] = useState<Record<string, string>>({});
  const [problem, setProblem] = useState("");
  const changed = useTrialChanged(trial.id);
  const { save } = useSaving();
  const rows = rowsOf(trial.strips, harvest, method, drafts.more);
  const waiting = rows.filter((row) => drafts.rows[row.key]).length;
  const unitOf = (column: Column) => drafts.units[column] ?? usualUnit(column, stage);
  const keep = (next: Drafts) => {
    setDrafts(next);
    storeDrafts(trial.id, method, next);
  };

  async function record() {
    const old = sheetBefore(rows, method, drafts);
    const path = { params: { path: { trial_id: trial.id } } };
    const send = (sheet: Schemas["SheetRowIn"][]) =>
      ask(client.POST("/api/trials/{trial_id}/harvest-sheet", { ...path, body: { rows: sheet } }));
    try {
      await save(() => send(sheetBody(rows, method, drafts, unitOf)), {
        label: `${waiting} loads`,
        run: async () => {
          for (const id of old.fresh) await strike(id, 1, "taken back");
          if (old.changed.length) await send(old.changed);
          changed();
        },
      });
      keep({ ...NO_DRAFTS, units: drafts.units });
      setProblems({});
      setProblem("");
      changed();
    } catch (error) {
      setProblem(faultOf(error).message);
      if (error instanceof Fault)
        setProblems(Object.fromEntries(error.problems.map((one) => [`${one.id}:${one.field ?? ""}`, one.message])));
    }
  }

  const done = trial.strips.filter((strip) => strip.yield_ && !strip.lost).length;
  const standing = trial.strips.filter((strip) => !strip.lost).length;
  return (
    <Columns why={<Why harvest={harvest} />}>
      <div className="mb-2 flex flex-wrap items-end gap-x-4 gap-y-2 border-l-4 border-base-content pl-3">
        <h2>
          {done} of {standing} strips harvested
        </h2>
        <label>
          <span className="sr-only">How yields are given</span>
          <select
            className="entry w-auto"
            value={method}
            onChange={(event) => {
              const next = event.target.value as Method;
              setMethod(next);
              setDrafts(storedDrafts(trial.id, next));
            }}
          >
            <option value="weighed">weighed loads</option>
            <option value="stated">yields already reckoned</option>
          </select>
        </label>
        {writable && (
          <button type="button" className="act" disabled={!waiting} onClick={() => void record()}>
            {waiting ? `Record ${waiting} ${waiting === 1 ? "load" : "loads"}` : "Record the loads"}
          </button>
        )}
        {waiting > 0 && (
          <>
            <span className="muted pb-1">On this device only, until recorded.</span>
            <button type="button" className="underline" onClick={() => keep(NO_DRAFTS)}>
              Forget what is typed
            </button>
          </>
        )}
        <button
          type="button"
          className="plain ml-auto"
          onClick={() =>
            saveCsv("harvest.csv", [
              ["strip", "block", "treatment", "yield", "net return"],
              ...trial.strips.map((strip) => [
                strip.order,
                strip.block_name,
                trial.treatments.find((one) => one.id === strip.received_id)?.letter ?? "",
                strip.lost ? "lost" : (strip.yield_?.text ?? ""),
                strip.net_return?.text ?? "",
              ]),
            ])
          }
        >
          Save as CSV
        </button>
      </div>
      {problem && (
        <p role="alert" className="mb-2 font-medium text-error">
          {problem}
        </p>
      )}
      <HarvestGrid
        {...stage}
        rows={rows}
        method={method}
        drafts={drafts}
        unitOf={unitOf}
        keep={keep}
        problems={problems}
        together={Object.fromEntries(harvest.strips.filter((one) => one.working).map((one) => [one.strip_id, one]))}
        strike={async (load, reason) => {
          await save(() => strike(load.id, load.version, reason), {
            label: "strike",
            run: async () => {
              await strike(load.id, load.version + 1, "", false);
              changed();
            },
          });
          changed();
        }}
      />
    </Columns>
  );
}

const strike = (id: string, version: number, reason: string, struck = true) =>
  ask(
    client.POST("/api/records/{kind}/{record_id}/strike", {
      params: { path: { kind: "harvest-load", record_id: id } },
      body: { struck, reason, version },
    }),
  );

function usualUnit(column: Column, { system }: Stage): string {
  if (column === "moisture") return "%";
  if (column === "stated_yield") return system === "us" ? "lb/ac" : "t/ha";
  if (column === "swath_width" || column === "length") return system === "us" ? "ft" : "m";
  return system === "us" ? "lb" : "kg";
}

function Why({ harvest }: { harvest: Schemas["HarvestOut"] }) {
  return (
    <>
      <p>
        Net weight over the area cut, then to{" "}
        {harvest.standard_moisture_pct === null
          ? "no standard moisture: this crop has none set, yields stay as weighed"
          : `${harvest.standard_moisture_pct} % moisture, this crop's standard`}
        , so that a wet strip does not win by its water.
      </p>
      <p>
        Cut a full swath from the middle of each strip; the edges belong to the neighbours. A column copied from a
        spreadsheet can be pasted into any cell and runs down from there.
      </p>
      <p>A question beside a value stops nothing. Look, then mend it or leave it.</p>
      <Caution>
        Nobody near the header or the auger while they run. Grain in a bin or wagon buries a person in seconds: never
        step on flowing grain.
      </Caution>
    </>
  );
}
