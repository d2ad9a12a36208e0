import { useQuery, useQueryClient } from "@tanstack/react-query";
import { ask, client, type Schemas } from "../../api/client";
import { useHere } from "../../app/Gate";
import { useSaving } from "../../app/saving";
import { Dialog } from "../../ui/Dialog";
import { EntryField } from "../../ui/EntryField";
import { Problem } from "../../ui/Problem";
import { useForm } from "../../ui/useForm";

type Task = Schemas["TaskOut"];
/** What a task is about: something that is due, by its name there, or anything else; ``taskId`` where it is given already. */
export type Due = { ref: string; what: string; on: string | null; taskId?: string };

export const useTasks = (trialId: string, enabled = true) =>
  useQuery({
    queryKey: ["tasks", trialId],
    queryFn: () => ask(client.GET("/api/trials/{trial_id}/tasks", { params: { path: { trial_id: trialId } } })),
    enabled,
  });

type Props = { trialId: string; due: Due; onClose: () => void };

/** Give something that is due to a person, with a note; say that it is done, and what labour it took. */
export function TaskDialog({ trialId, due, onClose }: Props) {
  const tasks = useTasks(trialId);
  return (
    <Dialog title={due.what || "A task"} onClose={onClose}>
      {tasks.data && <TaskForm trialId={trialId} due={due} tasks={tasks.data} onClose={onClose} />}
    </Dialog>
  );
}

function TaskForm({ trialId, due, tasks, onClose }: Props & { tasks: Schemas["TasksOut"] }) {
  const { person } = useHere();
  const cache = useQueryClient();
  const { save } = useSaving();
  const task = tasks.tasks.find((one) =>
    due.taskId ? one.id === due.taskId : due.ref && one.ref === due.ref && !one.done_at,
  );
  const form = useForm(
    {
      what: task?.what ?? due.what,
      due_on: task?.due_on ?? due.on ?? "",
      given_to: task?.given_to ?? "",
      note: task?.note ?? "",
      hours: task?.hours ?? "",
      done: "",
    },
    async ({ due_on, done, ...entries }) => {
      await keepTask(trialId, task, { ...entries, ref: due.ref, due_on: due_on || null, done: done === "yes" }, save);
      await afterTask(cache, trialId);
      onClose();
    },
  );
  const held = task?.given_to_name && !tasks.people.some((one) => one.username === task.given_to);
  return (
    <form onSubmit={form.submit} className="space-y-3">
      {!due.ref && <EntryField label="What is to be done" {...form.of("what")} />}
      <label className="block">
        Given to
        <select
          className="entry"
          data-first
          value={form.entries.given_to}
          onChange={(event) => form.put({ given_to: event.target.value })}
        >
          <option value="">nobody in particular</option>
          {held && <option value={task.given_to}>{task.given_to_name}</option>}
          {tasks.people.map((one) => (
            <option key={one.username} value={one.username}>
              {one.username === person.username ? `${one.name}, myself` : one.name}
            </option>
          ))}
        </select>
        {form.of("given_to").error && (
          <span role="alert" className="text-error">
            {form.of("given_to").error}
          </span>
        )}
      </label>
      {!due.ref && (
        <label className="block">
          Until
          <input
            type="date"
            className="entry"
            value={form.entries.due_on}
            onChange={(event) => form.put({ due_on: event.target.value })}
          />
        </label>
      )}
      <EntryField label="Note" {...form.of("note")} />
      <EntryField label="Hours of work, all people together" {...form.of("hours")} />
      <label className="flex min-h-11 items-center gap-2">
        <input
          type="checkbox"
          className="h-5 w-5"
          checked={form.entries.done === "yes"}
          onChange={(event) => form.put({ done: event.target.checked ? "yes" : "" })}
        />
        It is done
      </label>
      <Problem>{form.trouble}</Problem>
      <button type="submit" className="act min-h-11" disabled={form.busy}>
        Save
      </button>
    </form>
  );
}

type Save = ReturnType<typeof useSaving>["save"];

/** Store a task; a new one gets its id here. */
export const keepTask = (trialId: string, task: Task | undefined, body: Schemas["TaskIn"], save: Save) =>
  save(() =>
    ask(
      client.PUT("/api/trials/{trial_id}/tasks/{task_id}", {
        params: { path: { trial_id: trialId, task_id: task?.id ?? crypto.randomUUID() } },
        body: { ...body, version: task?.version ?? null },
      }),
    ),
  );

/** What shows tasks is asked for anew. */
export const afterTask = async (cache: ReturnType<typeof useQueryClient>, trialId: string) => {
  await cache.invalidateQueries({ queryKey: ["tasks", trialId] });
  await cache.invalidateQueries({ queryKey: ["today"] });
};
