import { useQueryClient } from "@tanstack/react-query";
import { type ChangeEvent, useEffect, useRef, useState } from "react";
import { ask, client, type Schemas } from "../../../api/client";
import { useMachines, useTrialChanged } from "../../../api/queries";
import { faultOf, useSaving } from "../../../app/saving";
import { Problem } from "../../../ui/Problem";
import type { Stage } from "../TrialFrame";
import { VoidRecord } from "../VoidRecord";
import { LogColumns } from "./LogColumns";
import { LogSteps } from "./LogSteps";

type Log = Schemas["YieldLogOut"];
/** The server's own limit, told before a large file is sent in vain. */
const MOST_MB = 120;
type Props = { stage: Stage; logs: Schemas["YieldLogsOut"] };

/** Logs of combines: take one in, say what its columns mean, look at what the cleaning does. */
export function Logs({ stage, logs }: Props) {
  const [open, setOpen] = useState<string | null>(null);
  const log = logs.logs.find((yieldLog) => yieldLog.id === open) ?? logs.logs.at(-1);
  const changed = useTrialChanged(stage.trial.id);
  const busy = logs.logs.some((yieldLog) => yieldLog.job_id);
  const was = useRef(busy);
  useEffect(() => {
    if (was.current && !busy) changed();
    was.current = busy;
  }, [busy, changed]);
  if (!logs.placed) return <p className="font-medium">{logs.needs}</p>;
  return (
    <>
      {stage.writable && <TakeIn stage={stage} onTaken={setOpen} first={!logs.logs.length} />}
      {logs.logs.length > 1 && (
        <label className="mt-3 flex w-fit items-center gap-2">
          Log
          <select className="entry w-auto" value={log?.id} onChange={(event) => setOpen(event.target.value)}>
            {logs.logs.map((yieldLog) => (
              <option key={yieldLog.id} value={yieldLog.id}>
                {yieldLog.name}, {yieldLog.recorded_at.slice(0, 10)}
              </option>
            ))}
          </select>
        </label>
      )}
      {log && <One key={log.id} stage={stage} log={log} />}
    </>
  );
}

function TakeIn({ stage, onTaken, first }: { stage: Stage; onTaken: (id: string) => void; first: boolean }) {
  const machines = useMachines(stage.trial.workspace_id);
  const combines = (machines.data ?? []).filter((item) => item.kind === "harvester");
  const [machine, setMachine] = useState("");
  const [problem, setProblem] = useState("");
  const cache = useQueryClient();
  const { save } = useSaving();

  async function read(event: ChangeEvent<HTMLInputElement>) {
    const file = event.target.files?.[0];
    event.target.value = "";
    if (!file) return;
    if (file.size > MOST_MB * 1e6)
      return setProblem(
        `${file.name} holds ${Math.round(file.size / 1e6)} MB; at most ${MOST_MB} MB are read. Export the one field only.`,
      );
    const id = crypto.randomUUID();
    const form = new FormData();
    form.append("file", file);
    form.append("recorded_at", new Date().toISOString());
    if (machine) form.append("machine_id", machine);
    try {
      await save(() =>
        ask(
          client.POST("/api/trials/{trial_id}/yield-logs/{log_id}", {
            params: { path: { trial_id: stage.trial.id, log_id: id } },
            // the generated type asks for text; the browser sends the file as the form it is
            body: form as never,
            bodySerializer: (body: unknown) => body as FormData,
          }),
        ),
      );
      setProblem("");
      onTaken(id);
      void cache.invalidateQueries({ queryKey: ["yield-logs", stage.trial.id] });
    } catch (error) {
      setProblem(faultOf(error).message);
    }
  }

  return (
    <div>
      {first && (
        <p className="muted mb-2">
          No log yet. A real one, or one of the simulated combine under Setup → Stand-ins: both go the same way.
        </p>
      )}
      <div className="flex flex-wrap items-end gap-3">
        <label>
          Machine
          <select className="entry" value={machine} onChange={(event) => setMachine(event.target.value)}>
            <option value="">not said</option>
            {combines.map((combine) => (
              <option key={combine.id} value={combine.id}>
                {combine.name}
              </option>
            ))}
          </select>
        </label>
        <label className="plain cursor-pointer focus-within:outline-2">
          Read a log
          <input
            type="file"
            accept=".csv,.txt,.geojson,.json,.gpkg,.zip"
            className="sr-only"
            onChange={(event) => void read(event)}
          />
        </label>
        <span className="muted pb-1 text-sm">
          CSV, zipped Shapefile, GeoPackage or GeoJSON points. The columns are asked for once a machine.
        </span>
      </div>
      <Problem>{problem}</Problem>
    </div>
  );
}

function One({ stage, log }: { stage: Stage; log: Log }) {
  const [asking, setAsking] = useState(false);
  const cache = useQueryClient();
  const fresh = (next?: Log) => {
    if (next)
      cache.setQueryData<Schemas["YieldLogsOut"]>(["yield-logs", stage.trial.id], (now) =>
        now ? { ...now, logs: now.logs.map((yieldLog) => (yieldLog.id === next.id ? next : yieldLog)) } : now,
      );
    void cache.invalidateQueries({ queryKey: ["yield-logs", stage.trial.id] });
  };
  const mapping = asking || log.state === "columns" || (log.state === "failed" && !log.readings);
  return (
    <section aria-label={`Log ${log.name}`} className="mt-4">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h3>{log.name}</h3>
        <span className="muted">
          {log.size_kb} kB, {log.machine || "machine not said"}, taken in by {log.recorded_by} on{" "}
          {log.recorded_at.slice(0, 10)}
        </span>
        <a className="underline" href={`/api/yield-logs/${log.id}/raw`}>
          The file as it came
        </a>
        {stage.writable && !mapping && !log.job_id && (
          <button type="button" className="underline" onClick={() => setAsking(true)}>
            Columns
          </button>
        )}
        {stage.writable && !log.job_id && (
          <VoidRecord kind="yield-log" record={log} what={`log ${log.name}`} trialId={stage.trial.id} />
        )}
      </div>
      <Progress log={log} writable={stage.writable} onCancelled={() => fresh()} />
      {mapping ? (
        <LogColumns
          stage={stage}
          log={log}
          onSaid={(next) => {
            setAsking(false);
            fresh(next);
          }}
          onLeave={log.readings ? () => setAsking(false) : null}
        />
      ) : (
        log.readings > 0 && <LogSteps stage={stage} log={log} onChanged={fresh} />
      )}
    </section>
  );
}

/** How far the work is, with a way to stop it; or why it ended without a result. */
function Progress({ log, writable, onCancelled }: { log: Log; writable: boolean; onCancelled: () => void }) {
  const { job_id } = log;
  if (job_id) {
    return (
      <div className="mt-2 flex items-center gap-3" role="status">
        <progress className="progress w-64" max={100} value={log.progress_pct} aria-label="How far the work is" />
        <span>{log.state === "waiting" ? "Waiting for the worker" : log.said || "Under way"}</span>
        {writable && (
          <button
            type="button"
            className="plain"
            onClick={async () => {
              await ask(client.POST("/api/jobs/{job_id}/cancel", { params: { path: { job_id } } }));
              onCancelled();
            }}
          >
            Cancel
          </button>
        )}
      </div>
    );
  }
  if (log.state !== "failed" && log.state !== "cancelled") return null;
  return (
    <p role="alert" className="mt-2 font-medium text-error">
      {log.state === "failed" ? log.said : "The work was cancelled or overtaken; nothing was taken in."}
    </p>
  );
}
