import { useState } from "react";
import { ask, client, Fault, type Schemas } from "../../../api/client";
import { useTrialChanged } from "../../../api/queries";
import { faultOf, useSaving } from "../../../app/saving";
import { saveCsv } from "../../../ui/csv";
import { QuantityField } from "../../../ui/fields";
import type { Stage } from "../TrialFrame";
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

/** Loads as they were weighed, or yields somebody else has reckoned. */
export function Loads(stage: Stage & { harvest: Schemas["HarvestOut"] }) {
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
          for (const id of old.fresh) await voidRecord(id, 1, "taken back");
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
        setProblems(
          Object.fromEntries(
            error.problems.map((rowProblem) => [`${rowProblem.id}:${rowProblem.field ?? ""}`, rowProblem.message]),
          ),
        );
    }
  }

  const done = trial.strips.filter(
    (strip) =>
      !strip.lost && harvest.strips.some((stripHarvest) => stripHarvest.strip_id === strip.id && stripHarvest.yield_),
  ).length;
  const standing = trial.strips.filter((strip) => !strip.lost).length;
  return (
    <>
      <div className="mb-2 flex flex-wrap items-end gap-x-4 gap-y-2">
        <h3>
          {done} of {standing} strips weighed
        </h3>
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
                trial.treatments.find((treatment) => treatment.id === strip.received_id)?.letter ?? "",
                strip.lost
                  ? "lost"
                  : (harvest.strips.find((stripHarvest) => stripHarvest.strip_id === strip.id)?.yield_?.text ?? ""),
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
      {method === "weighed" && (
        <div className="mb-2 w-56">
          <QuantityField
            label="Yields at a moisture of"
            dimension="percent"
            reader={stage.reader}
            usual="%"
            value={trial.standard_moisture}
            disabled={!trial.may.includes("design")}
            error={stage.problems.standard_moisture}
            hint={
              trial.standard_moisture.text
                ? "the trial's own; empty: the crop's usual"
                : `empty: the crop's usual${harvest.standard_moisture_pct === null ? ", none" : `, ${harvest.standard_moisture_pct} %`}`
            }
            onCommit={(standard_moisture) => void stage.edit({ standard_moisture }, "standard moisture")}
          />
        </div>
      )}
      {harvest.swap && <p className="mb-2 font-medium">? {harvest.swap}</p>}
      <HarvestGrid
        {...stage}
        rows={rows}
        method={method}
        drafts={drafts}
        unitOf={unitOf}
        keep={keep}
        problems={problems}
        together={Object.fromEntries(
          harvest.strips.filter((strip) => strip.working).map((strip) => [strip.strip_id, strip]),
        )}
        voidRecord={async (load, reason) => {
          await save(() => voidRecord(load.id, load.version, reason), {
            label: "void",
            run: async () => {
              await voidRecord(load.id, load.version + 1, "", false);
              changed();
            },
          });
          changed();
        }}
      />
    </>
  );
}

const voidRecord = (id: string, version: number, reason: string, voided = true) =>
  ask(
    client.POST("/api/records/{kind}/{record_id}/void", {
      params: { path: { kind: "harvest-load", record_id: id } },
      body: { voided, reason, version },
    }),
  );

function usualUnit(column: Column, { reader }: Stage): string {
  if (column === "moisture" || column === "shrink") return "%";
  if (column === "passes" || column === "pieces") return "";
  if (column === "test_weight") return reader.of.test_weight ?? "";
  if (column === "stated_yield") return reader.of.yield_by_weight ?? "";
  if (column === "swath_width" || column === "length") return reader.of.strip_width ?? "";
  return reader.of.mass ?? "";
}
