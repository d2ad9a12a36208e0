import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { Flag } from "../../../ui/marks";
import { writtenDay } from "../../../ui/writing";
import { type Due, TaskDialog, useTasks } from "../../tasks/TaskDialog";
import { Tasks } from "../../tasks/Tasks";
import type { Stage } from "../TrialFrame";

const STATES: Record<string, string> = {
  overdue: "overdue",
  due: "due",
  wait: "too wet, moved on",
  coming: "to come",
  done: "done",
  missed: "missed",
};

/** Every visit of the crop with its day, its state and the reason. */
export function Visits({ stage, schedule }: { stage: Stage; schedule: Schemas["ScheduleOut"] }) {
  const { trial, writable } = stage;
  const tasks = useTasks(trial.id);
  const [due, setDue] = useState<Due | null>(null);
  const given = (ref: string) => tasks.data?.tasks.find((task) => task.ref === ref && !task.done_at)?.given_to_name;
  return (
    <>
      <p>{schedule.heat_words}</p>
      {!schedule.visits.length && (
        <p className="muted">
          {trial.planted_on ? "The strips are harvested: no visit is left." : "Visits are reckoned once it is sown."}
        </p>
      )}
      {schedule.visits.length > 0 && (
        <table aria-label="Visits" className="figures mt-2">
          <thead>
            <tr>
              <th>Day</th>
              <th>Visit</th>
              <th>State</th>
              <th>By</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {schedule.visits.map((visit) => (
              <tr key={visit.key + visit.where}>
                <td className="whitespace-nowrap">{writtenDay(visit.on)}</td>
                <td>
                  <span className="font-medium">{visit.what}</span>
                  {visit.where && <span>, {visit.where}</span>}
                  <span className="muted block text-sm">{visit.why}</span>
                </td>
                <td className="whitespace-nowrap">
                  {(visit.state === "overdue" || visit.state === "due") && <Flag className="inline h-5 w-5" />}{" "}
                  {STATES[visit.state]}
                </td>
                <td>
                  {visit.reason}
                  {given(visit.ref) && <b className="block">{given(visit.ref)}</b>}
                </td>
                <td>
                  {writable && visit.state !== "done" && visit.state !== "missed" && (
                    <button type="button" className="mb-1 block underline" onClick={() => setDue(visit)}>
                      Task<span className="sr-only"> of {visit.what}</span>
                    </button>
                  )}
                  {writable && visit.state !== "done" && visit.state !== "missed" && (
                    <Link
                      className="plain whitespace-nowrap"
                      to={`/trials/${trial.id}/fieldbook?task=${visit.task}${visit.trait ? `&trait=${encodeURIComponent(visit.trait)}` : ""}`}
                    >
                      Go<span className="sr-only"> to {visit.what}</span>
                    </Link>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <Tasks trialId={trial.id} writable={writable} />
      {due && <TaskDialog trialId={trial.id} due={due} onClose={() => setDue(null)} />}
    </>
  );
}
