import { useState } from "react";
import { ask, client, type Schemas } from "../../../api/client";
import { useTrialChanged } from "../../../api/queries";
import { faultOf, useSaving } from "../../../app/saving";
import { Problem } from "../../../ui/Problem";
import type { Stage } from "../TrialFrame";

/** What the verdict rests on, the loads or one log, in a sentence and to be chosen. */
export function Source({ stage, logs }: { stage: Stage; logs: Schemas["YieldLogsOut"] }) {
  const [problem, setProblem] = useState("");
  const changed = useTrialChanged(stage.trial.id);
  const { save } = useSaving();
  const ready = logs.logs.filter((log) => log.state === "done");
  async function choose(logId: string | null) {
    const put = (log_id: string | null, version: number) =>
      ask(
        client.PUT("/api/trials/{trial_id}/harvest-source", {
          params: { path: { trial_id: stage.trial.id } },
          body: { version, log_id },
        }),
      );
    try {
      const before = logs.source.log_id;
      await save(() => put(logId, logs.source.version), {
        label: "source of yields",
        run: async () => {
          await put(before, logs.source.version + 1);
          changed();
        },
      });
      setProblem("");
      changed();
    } catch (error) {
      setProblem(faultOf(error).message);
    }
  }
  return (
    <div>
      {logs.source.words && <p>{logs.source.words}</p>}
      {(ready.length > 0 || logs.source.log_id) && (
        <label className="no-print mt-1 flex w-fit items-center gap-2">
          The verdict rests on
          <select
            className="entry w-auto"
            disabled={!stage.trial.may.includes("design")}
            value={logs.source.log_id ?? ""}
            onChange={(event) => void choose(event.target.value || null)}
          >
            <option value="">the loads</option>
            {ready.map((log) => (
              <option key={log.id} value={log.id}>
                the log {log.name}
              </option>
            ))}
          </select>
        </label>
      )}
      <Problem>{problem}</Problem>
    </div>
  );
}
