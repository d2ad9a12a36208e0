import { useState } from "react";
import type { Schemas } from "../../api/client";
import { writtenDay, writtenMoment } from "../../ui/writing";
import { type Due, TaskDialog, useTasks } from "./TaskDialog";

/** Tasks of a trial: who does what, and the hours that were noted. */
export function Tasks({ trialId, writable }: { trialId: string; writable: boolean }) {
  const tasks = useTasks(trialId);
  const [open, setOpen] = useState<Due | null>(null);
  if (!tasks.data) return null;
  const left = tasks.data.tasks.filter((task) => !task.done_at);
  const done = tasks.data.tasks.filter((task) => task.done_at);
  return (
    <section aria-labelledby="tasks" className="mt-4">
      <div className="flex flex-wrap items-baseline gap-3">
        <h3 id="tasks">Tasks</h3>
        {tasks.data.hours > 0 && <span className="muted">{tasks.data.hours} h noted</span>}
        {writable && (
          <button type="button" className="plain ml-auto" onClick={() => setOpen({ ref: "", what: "", on: null })}>
            Add a task
          </button>
        )}
      </div>
      {!left.length && !done.length && <p className="muted">Nothing is given to anybody.</p>}
      <ul className="divide-y divide-base-300">
        {left.map((task) => (
          <TaskLine
            key={task.id}
            task={task}
            onOpen={writable ? () => setOpen({ ref: task.ref, what: task.what, on: null, taskId: task.id }) : undefined}
          />
        ))}
      </ul>
      {done.length > 0 && (
        <details>
          <summary className="cursor-pointer">{done.length} done</summary>
          <ul className="divide-y divide-base-300">
            {done.map((task) => (
              <TaskLine key={task.id} task={task} />
            ))}
          </ul>
        </details>
      )}
      {open && <TaskDialog trialId={trialId} due={open} onClose={() => setOpen(null)} />}
    </section>
  );
}

function TaskLine({ task, onOpen }: { task: Schemas["TaskOut"]; onOpen?: () => void }) {
  return (
    <li className="py-1.5">
      {onOpen ? (
        <button type="button" className="font-medium underline" onClick={onOpen}>
          {task.what}
        </button>
      ) : (
        <span className="font-medium">{task.what}</span>
      )}
      {task.given_to_name && <span>, {task.given_to_name}</span>}
      {task.due_on && !task.done_at && <span className="muted">, until {writtenDay(task.due_on)}</span>}
      {task.done_at && <span className="muted">, done {writtenMoment(task.done_at, { year: true })}</span>}
      {task.hours && <span>, {task.hours} h</span>}
      {task.note && <span className="muted block text-sm">{task.note}</span>}
    </li>
  );
}
