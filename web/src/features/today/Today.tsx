import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useBackups, useFields, useStation, useToday, useTrials } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { may } from "../../app/rights";
import { Flag } from "../../ui/marks";
import { Waiting } from "../../ui/Waiting";
import { momentWords } from "../setup/SetupPlaces";
import { TaskDialog } from "../tasks/TaskDialog";
import { TrialLine } from "../trials/TrialLine";
import { Practice } from "./Practice";

/** Where a due thing is done: the task of the field book, or the stage. */
function openAt(due: Schemas["DueOut"]): string {
  if (!due.task) return `/trials/${due.trial_id}/${due.stage}`;
  return `/trials/${due.trial_id}/fieldbook?task=${due.task}${due.trait ? `&trait=${encodeURIComponent(due.trait)}` : ""}`;
}

const FINISHED = { finished: true, limit: 4 };

/** What is due across trials, most urgent first, with the reason; then what stands finished. */
export function Today() {
  const { person, workspace } = useHere();
  const [most, setMost] = useState<number>();
  const [task, setTask] = useState<Schemas["DueOut"] | null>(null);
  const today = useToday(workspace.id, most);
  const finished = useTrials(workspace.id, FINISHED);
  const trials = useTrials(workspace.id);
  const station = useStation(workspace.id);
  const dues = today.data?.dues ?? [];
  const more = (today.data?.total ?? 0) - dues.length;
  const called = finished.data?.rows ?? [];
  return (
    <div className="grid gap-6 lg:grid-cols-[3fr_2fr]">
      <section aria-labelledby="due" className="min-w-0">
        <h1 id="due">Due at {workspace.name}</h1>
        <p className="muted mb-2 flex flex-wrap gap-x-4">
          <span>{person.name}, yours first, then the most urgent.</span>
          {station.data?.wet && <b>{station.data.wet}.</b>}
          <a className="worked" href={`/api/workspaces/${workspace.id}/visits.ics`}>
            Visits as a calendar
          </a>
          <a className="worked" href={`/api/workspaces/${workspace.id}/visits.ics?mine=true`}>
            Mine as a calendar
          </a>
        </p>
        <Waiting query={today} />
        <LastBackup />
        {trials.data?.total === 0 && <FirstSteps />}
        {today.data && trials.data && trials.data.total > 0 && !dues.length && (
          <p className="sheet p-3">
            Nothing is due.{" "}
            <Link className="worked" to="/trials/new">
              Ask a new question
            </Link>
            , or look through{" "}
            <Link className="worked" to="/trials">
              the shelf
            </Link>
            .
          </p>
        )}
        <ol className="sheet divide-y divide-base-300">
          {dues.map((due) => (
            <li key={due.trial_id + due.stage + due.what} className="flex items-start gap-3 p-2.5">
              <Flag className={due.urgency < 4 ? "h-6 w-6" : "h-6 w-6 opacity-30"} />
              <div className="min-w-0 flex-1">
                <p className="font-semibold">{due.trial_title}</p>
                <p>
                  {due.state === "overdue" && <b>Overdue. </b>}
                  {due.what}
                  {due.on && <span className="muted">, {due.state === "coming" ? `about ${due.on}` : due.on}</span>}
                </p>
                <p className="muted text-sm">{due.why}</p>
                {due.given && (
                  <p>
                    <b>{due.given.mine ? "Yours" : due.given.to ? `Given to ${due.given.to}` : "Open to all"}</b>
                    {due.given.note && `: ${due.given.note}`}
                  </p>
                )}
                {due.cautions.map((text) => (
                  <p key={text} className="caution mt-1 text-sm">
                    {text}
                  </p>
                ))}
              </div>
              <div className="flex shrink-0 flex-col gap-2">
                <Link className="plain" to={openAt(due)}>
                  Open {due.task ? "field book" : due.stage_label}
                  <span className="sr-only">
                    {" "}
                    {due.task ? `for ${due.what} ` : ""}of {due.trial_title}
                  </span>
                </Link>
                {may(workspace, "record") && (due.ref || due.given) && (
                  <button type="button" className="min-h-8 underline" onClick={() => setTask(due)}>
                    {due.given ? "Task" : may(workspace, "design") ? "Give" : "Take"}
                    <span className="sr-only">
                      {" "}
                      {due.what} of {due.trial_title}
                    </span>
                  </button>
                )}
              </div>
            </li>
          ))}
        </ol>
        {task && (
          <TaskDialog
            trialId={task.trial_id}
            due={{ ref: task.ref, what: task.what, on: task.on, taskId: task.given?.task_id }}
            onClose={() => setTask(null)}
          />
        )}
        {more > 0 && (
          <button type="button" className="plain mt-2" onClick={() => setMost(dues.length + more)}>
            Show the other {more}
          </button>
        )}
      </section>
      <section aria-labelledby="called" className="min-w-0">
        <h2 id="called" className="mb-2 mt-1">
          Verdicts in hand
        </h2>
        {finished.data && !called.length && <p className="muted">None yet. The first comes with the first harvest.</p>}
        <div className="space-y-3">
          {called.map((trial) => (
            <TrialLine key={trial.id} trial={trial} to={may(workspace, "money") ? "verdict" : "harvest"} />
          ))}
        </div>
      </section>
    </div>
  );
}

/** The last good backup, for owners; louder where there is none or it failed. */
function LastBackup() {
  const { workspace } = useHere();
  const backups = useBackups(workspace.id, false, may(workspace, "settings") && !workspace.practice);
  const state = backups.data;
  if (!state) return null;
  return (
    <p className={state.well ? "muted mb-2 text-sm" : "caution mb-2"}>
      {state.last_good_at ? `Last good backup: ${momentWords(state.last_good_at)}. ` : ""}
      {state.well && state.last_good_at ? "" : `${state.words} `}
      <Link className="worked" to="/setup/backups">
        Backups
      </Link>
    </p>
  );
}

/** A workspace with nothing in it yet: what comes first, and a place to try things. */
function FirstSteps() {
  const { workspace } = useHere();
  const fields = useFields(workspace.id);
  if (!may(workspace, "design"))
    return <p className="sheet p-3">No trial yet. An owner or adviser begins the first one.</p>;
  const hasField = (fields.data?.length ?? 0) > 0;
  return (
    <div className="space-y-4">
      <div className="sheet p-3">
        <p className="mb-2 font-semibold">No trial yet. What comes first:</p>
        <ol className="list-decimal space-y-1 pl-6">
          <li>
            <Link className="worked" to="/setup">
              Add a field
            </Link>
            {hasField ? ": done." : ", with its boundary or its size."}
          </li>
          <li>
            <Link className="worked" to="/setup/machines">
              Add the drill and the combine
            </Link>
            : their widths decide how wide a strip can be.
          </li>
          <li>
            <Link className="worked" to="/trials/new">
              Ask the first question
            </Link>
            : what you vary, and what you would do with the answer.
          </li>
          {may(workspace, "people") && (
            <li>
              <Link className="worked" to="/setup/people">
                Invite the people
              </Link>{" "}
              who count and harvest with you.
            </li>
          )}
        </ol>
      </div>
      {may(workspace, "settings") && !workspace.practice && <Practice />}
    </div>
  );
}
