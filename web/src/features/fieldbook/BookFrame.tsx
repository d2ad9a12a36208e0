import type { ReactNode } from "react";
import { Link } from "react-router";
import type { Strip, Trial } from "../../api/client";
import { type Layer, Ribbon } from "../../ui/Ribbon";

export type Task = "count" | "sowing" | "depth";
const TASKS: [Task, string, string][] = [
  ["sowing", "Sow", "planting?sheet=sown"],
  ["depth", "Depth", "planting?sheet=depth"],
  ["count", "Count", "stand?"],
];

type Props = {
  trial: Trial;
  task: Task;
  change: (task: Task) => void;
  strip: Strip;
  choose: (strip: Strip) => void;
  go: (step: number) => void;
  unsent: number;
  held: string;
  blind?: boolean;
  done?: Set<string>;
  layer: Layer;
  under?: ReactNode;
  children: ReactNode;
};

/** What every task of the field book shares: where one is, which strip, what is on this device only. */
export function BookFrame(props: Props) {
  const { trial, task, strip, go, unsent, held, blind = false } = props;
  const treatment = trial.treatments.find((one) => one.id === strip.received_id);
  const stage = TASKS.find(([key]) => key === task)?.[2];
  return (
    <main className="mx-auto flex min-h-dvh max-w-xl flex-col bg-base-100 p-2">
      <h1 className="sr-only">Field book of {trial.title}</h1>
      <div className="flex items-center gap-2">
        <Link className="plain min-h-12 content-center" to={`/trials/${trial.id}/${stage}&strip=${strip.order}`}>
          Leave
        </Link>
        <span className="min-w-0 flex-1 truncate">{trial.title}</span>
        <span role="status" className={unsent ? "font-semibold" : "muted"}>
          {unsent ? `${unsent} on this device${held ? `: ${held}` : ", sending"}` : "all on the server"}
        </span>
      </div>
      {trial.writable && (
        <div role="group" aria-label="Task" className="mt-1.5 grid grid-cols-3 border border-base-content">
          {TASKS.map(([key, name]) => (
            <button
              key={key}
              type="button"
              aria-pressed={key === task}
              className={`min-h-12 ${key === task ? "bg-base-content font-semibold text-base-100" : "bg-(--paper)"}`}
              onClick={() => props.change(key)}
            >
              {name}
            </button>
          ))}
        </div>
      )}
      <div className="mt-1.5">
        <Ribbon
          small
          blind={blind}
          done={props.done}
          strips={trial.strips}
          treatments={trial.treatments}
          layer={props.layer}
          selected={strip.id}
          onSelect={props.choose}
        />
      </div>
      <div className="mt-1.5 flex items-stretch gap-2">
        <button
          type="button"
          className="plain min-h-12 min-w-12 text-xl"
          aria-label="Strip before"
          onClick={() => go(-1)}
        >
          ←
        </button>
        <p className="flex-1 text-center">
          <span className="tag block text-2xl leading-tight">Strip {strip.order}</span>
          <span className="muted">
            {strip.block_name}
            {!blind && treatment && `, ${treatment.letter}: ${treatment.name}`}
            {props.under}
          </span>
        </p>
        <button type="button" className="plain min-h-12 min-w-12 text-xl" aria-label="Next strip" onClick={() => go(1)}>
          →
        </button>
      </div>
      {props.children}
    </main>
  );
}
