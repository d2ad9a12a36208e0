import { useState } from "react";
import { ask, client, type Schemas } from "../../../api/client";
import { useMachines } from "../../../api/queries";
import { faultOf, useSaving } from "../../../app/saving";
import { Problem } from "../../../ui/Problem";
import type { Stage } from "../TrialFrame";

type Log = Schemas["YieldLogOut"];
type Props = { stage: Stage; log: Log; onSaid: (log: Log) => void; onLeave: (() => void) | null };
type Draft = Record<string, { name: string; unit: string; constant: string }>;
const FIXED = "one width for all";

const draftOf = (log: Log): Draft =>
  Object.fromEntries(
    log.columns.map((column) => [
      column.role,
      { name: column.constant ? FIXED : column.name, unit: column.unit, constant: column.constant },
    ]),
  );

/** Which column means what, and in which unit: guessed from the names, looked at once, remembered for the machine. */
export function LogColumns({ stage, log, onSaid, onLeave }: Props) {
  const machines = useMachines(stage.trial.workspace_id);
  const [draft, setDraft] = useState(() => draftOf(log));
  const [machine, setMachine] = useState(log.machine_id ?? "");
  const [problem, setProblem] = useState<{ field: string | null; message: string } | null>(
    log.field ? { field: log.field, message: log.said } : null,
  );
  const { save } = useSaving();
  const foot = stage.reader.of.strip_width ?? "m";
  const put = (role: string, part: Partial<Draft[string]>) =>
    setDraft((now) => ({ ...now, [role]: { ...(now[role] ?? { name: "", unit: "", constant: "" }), ...part } }));

  async function say() {
    const columns = Object.fromEntries(
      Object.entries(draft)
        .filter(([, item]) => item.name)
        .map(([role, item]) => [
          role,
          item.name === FIXED
            ? { name: "", unit: "", constant: { text: item.constant || "?", unit: foot } }
            : { name: item.name, unit: item.unit, constant: null },
        ]),
    );
    try {
      const fresh = await save(() =>
        ask(
          client.PUT("/api/yield-logs/{log_id}/columns", {
            params: { path: { log_id: log.id } },
            body: { version: log.version, machine_id: machine || null, columns },
          }),
        ),
      );
      setProblem(null);
      if (fresh) onSaid(fresh);
    } catch (error) {
      setProblem(faultOf(error));
    }
  }

  return (
    <div className="mt-2">
      <p className="muted mb-1">
        What the columns mean is guessed from their names. Look at it once; it is remembered for the machine.
      </p>
      <div className="overflow-x-auto">
        <table className="figures" aria-label="What the columns mean">
          <thead>
            <tr>
              <th>Reading</th>
              <th>Column</th>
              <th>Unit</th>
              <th>First values</th>
            </tr>
          </thead>
          <tbody>
            {log.columns.map((column) => {
              const now = draft[column.role] ?? { name: "", unit: "", constant: "" };
              const place = log.header.indexOf(now.name);
              const wrong = problem?.field === column.role;
              return (
                <tr key={column.role}>
                  <td className={wrong ? "font-semibold text-error" : ""}>{column.label}</td>
                  <td>
                    <select
                      className="entry min-h-7 w-52 py-0"
                      aria-label={`Column of ${column.label}`}
                      aria-invalid={wrong}
                      disabled={!stage.writable}
                      value={now.name}
                      onChange={(event) => put(column.role, { name: event.target.value })}
                    >
                      <option value="">{column.optional ? "not in the file" : "choose"}</option>
                      {column.role === "swath" && <option value={FIXED}>{FIXED}</option>}
                      {log.header.map((name) => (
                        <option key={name} value={name}>
                          {name}
                        </option>
                      ))}
                    </select>
                  </td>
                  <td>
                    {now.name === FIXED ? (
                      <span className="flex items-center gap-1">
                        <input
                          className="entry min-h-7 w-20 py-0 text-right"
                          aria-label="Width of the header"
                          inputMode="decimal"
                          value={now.constant}
                          onChange={(event) => put(column.role, { constant: event.target.value })}
                        />
                        {foot}
                      </span>
                    ) : (
                      <select
                        className="entry min-h-7 w-24 py-0"
                        aria-label={`Unit of ${column.label}`}
                        disabled={!stage.writable || !now.name}
                        value={now.unit}
                        onChange={(event) => put(column.role, { unit: event.target.value })}
                      >
                        {column.units.map((unit) => (
                          <option key={unit} value={unit}>
                            {unit === "deg" ? "degrees" : unit === "clock" ? "date and time" : unit}
                          </option>
                        ))}
                      </select>
                    )}
                  </td>
                  <td className="muted">
                    {place >= 0 &&
                      log.rows
                        .slice(0, 3)
                        .map((row) => row[place])
                        .join(", ")}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
      <Problem>{problem?.message}</Problem>
      {stage.writable && (
        <div className="mt-2 flex flex-wrap items-end gap-3">
          <label>
            Remember for the machine
            <select className="entry" value={machine} onChange={(event) => setMachine(event.target.value)}>
              <option value="">not remembered</option>
              {(machines.data ?? [])
                .filter((item) => item.kind === "harvester")
                .map((item) => (
                  <option key={item.id} value={item.id}>
                    {item.name}
                  </option>
                ))}
            </select>
          </label>
          <button type="button" className="act" onClick={() => void say()}>
            Read and clean the log
          </button>
          {onLeave && (
            <button type="button" className="plain" onClick={onLeave}>
              Leave as it is
            </button>
          )}
        </div>
      )}
    </div>
  );
}
