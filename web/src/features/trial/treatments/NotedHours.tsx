import type { Schemas } from "../../../api/client";
import { useTasks } from "../../tasks/TaskDialog";
import { useStage } from "../TrialFrame";
import type { CostDraft, Draft } from "./draft";

/** Hours that were noted on tasks, offered as cost lines of the level whose strips they were spent on. */
export function NotedHours({ draft, change }: { draft: Draft; change: (draft: Draft) => void }) {
  const { trial } = useStage();
  const tasks = useTasks(trial.id);
  const labour = tasks.data?.labour ?? [];
  if (!labour.length) return null;
  const what = (id: string) => tasks.data?.tasks.find((task) => task.id === id)?.what ?? "";
  const line = (item: Schemas["LabourOut"]): CostDraft => ({
    key: crypto.randomUUID(),
    factor: item.factor,
    level: item.level,
    kind: "passes",
    label: what(item.task_id).slice(0, 60),
    times: "1",
    each: { text: "", unit: "" },
    basis: "area",
    spread: { text: "", unit: "" },
    made_of: { hours: item.hours },
  });
  return (
    <details className="mb-2">
      <summary className="cursor-pointer underline">Hours noted on tasks ({tasks.data?.hours} h)</summary>
      <p className="muted text-sm">
        Work that only one level asked for is a cost of that level. Work done on all strips alike changes no comparison.
        Type the wage in the line that is added.
      </p>
      <ul>
        {labour.map((item) => (
          <li key={item.task_id + item.words} className="flex flex-wrap items-center gap-3 py-1">
            <span>
              {what(item.task_id)}: {item.words}
            </span>
            <button
              type="button"
              className="underline"
              onClick={() => change({ ...draft, costs: [...draft.costs, line(item)] })}
            >
              Add to its costs
            </button>
          </li>
        ))}
      </ul>
    </details>
  );
}
