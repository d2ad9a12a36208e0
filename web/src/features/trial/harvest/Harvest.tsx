import type { Schemas } from "../../../api/client";
import { useHarvest, useYieldLogs } from "../../../api/queries";
import { Sheets, useSheet } from "../../../ui/Sheets";
import { Waiting } from "../../../ui/Waiting";
import { Caution, Columns } from "../Columns";
import { type Stage, useStage } from "../TrialFrame";
import { Beside } from "./Beside";
import { Loads } from "./Loads";
import { Logs } from "./Logs";
import { Source } from "./Source";

const SHEETS = [
  ["loads", "Loads"],
  ["log", "Combine log"],
  ["beside", "Scale beside log"],
] as const;

/** The Harvest stage: loads, logs, and which of the two the verdict rests on. */
export function Harvest() {
  const stage = useStage();
  const [sheet, go] = useSheet(SHEETS);
  const harvest = useHarvest(stage.trial.id);
  const logs = useYieldLogs(stage.trial.id);
  if (!harvest.data) return <Waiting query={harvest} />;
  if (!logs.data) return <Waiting query={logs} />;
  if (!stage.trial.strips.length) return <p className="muted">There are strips to harvest once the layout is drawn.</p>;
  return (
    <Columns why={<Why sheet={sheet} harvest={harvest.data} />}>
      <Answer stage={stage} logs={logs.data} />
      <Sheets label="Sheets of the harvest" sheets={SHEETS} sheet={sheet} go={go}>
        {sheet === "loads" && <Loads {...stage} harvest={harvest.data} />}
        {sheet === "log" && <Logs stage={stage} logs={logs.data} />}
        {sheet === "beside" && <Beside stage={stage} logs={logs.data} />}
      </Sheets>
    </Columns>
  );
}

function Answer({ stage, logs }: { stage: Stage; logs: Schemas["YieldLogsOut"] }) {
  const standing = stage.trial.strips.filter((strip) => !strip.lost);
  const done = standing.filter((strip) => strip.yield_).length;
  return (
    <section aria-label="The harvest so far" className="border-l-4 border-base-content pl-3">
      <h2>
        {done} of {standing.length} strips have a yield
      </h2>
      <Source stage={stage} logs={logs} />
    </section>
  );
}

function Why({ sheet, harvest }: { sheet: string; harvest: Schemas["HarvestOut"] }) {
  return (
    <>
      {sheet === "loads" && (
        <>
          <p>
            Net weight over the area cut, then to{" "}
            {harvest.standard_moisture_pct === null
              ? "no standard moisture: this crop has none set, yields stay as weighed"
              : harvest.standard_moisture_pct === 0
                ? "dry matter, as forage is reckoned"
                : `${harvest.standard_moisture_pct} % moisture, this crop's standard`}
            , so that a wet strip does not win by its water. A load without its moisture is kept and waits for it.
          </p>
          <p>
            Cut a full swath from the middle of each strip; the edges belong to the neighbours. One load holds one
            strip's grain only. A column copied from a spreadsheet can be pasted into any cell and runs down from there.
          </p>
          <p>A question beside a value stops nothing. Look, then mend it or leave it.</p>
        </>
      )}
      {sheet === "log" && (
        <>
          <p>
            Grain takes its time through the machine: what the sensor reads now was cut some seconds ago. The log tells
            how many, because passes driven opposite ways cross the same ground.
          </p>
          <p>
            Each step looks only at what the earlier ones left. Nothing is deleted: undo a step, and its readings are
            back. The file itself is kept as it came.
          </p>
          <p>
            Hundreds of readings on a strip are not hundreds of replicates. The treatment was given to the strip once;
            its readings tell how well that strip is known.
          </p>
        </>
      )}
      {sheet === "beside" && (
        <>
          <p>
            A monitor's calibration drifts; a scale under the load does not. Brought to the scale on the loads, the log
            keeps what it is good at: telling one strip from the next.
          </p>
          <p>
            The limits say how far scale and log differ on nineteen strips in twenty. If they are wider than the
            difference you look for, trust the scale.
          </p>
        </>
      )}
      <Caution>
        Nobody near the header or the auger while they run. Grain in a bin or wagon buries a person in seconds: never
        step on flowing grain.
      </Caution>
    </>
  );
}
