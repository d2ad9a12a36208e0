import { type ReactNode, useEffect, useRef } from "react";
import { Link } from "react-router";
import type { Strip, Trial } from "../../api/client";
import { useSchedule } from "../../api/queries";
import { type Layer, Ribbon } from "../../ui/Ribbon";
import { Offline } from "./Offline";
import { READINGS } from "./outbox";
import type { useOutbox } from "./useOutbox";

const OWN_TASKS = [
  ["count", "Count", "stand?"],
  ["tape", "Tape", "stand?sheet=spacing"],
  ["dig", "Dig", "stand?sheet=crowns"],
  ["measure", "Measure", "season?sheet=measured"],
  ["rate", "Rate", "season?sheet=judged"],
  ["yield", "Yield", "estimate?"],
  ["note", "Note", "season?"],
  ["photo", "Photo", "season?sheet=photos"],
  ["sowing", "Sow", "planting?sheet=sown"],
  ["depth", "Depth", "planting?sheet=depth"],
  ["harvest", "Harvest", "harvest?sheet=loads"],
] as const;
/** Tasks of readings follow from the registry of kinds. */
export type ReadingTask = `read-${string}`;
export type Task = (typeof OWN_TASKS)[number][0] | ReadingTask;
const TASKS: readonly (readonly [Task, string, string])[] = [
  ...OWN_TASKS,
  ...READINGS.map((kind) => [`read-${kind.task}`, kind.button, "season?sheet=measured"] as const),
];
/** The kind of reading that a task makes, if it makes one. */
export const readingOf = (task: Task) => READINGS.find((kind) => task === `read-${kind.task}`);
export const isTask = (text: string | null): text is Task => TASKS.some(([key]) => key === text);

type Props = {
  trial: Trial;
  task: Task;
  change: (task: Task) => void;
  strip: Strip;
  choose: (strip: Strip) => void;
  go: (step: number) => void;
  outbox: ReturnType<typeof useOutbox>;
  blind?: boolean;
  done?: Set<string>;
  layer: Layer;
  under?: ReactNode;
  children: ReactNode;
};

/** What every task of the field book shares: where one is, which strip, what is on this device only. */
export function BookFrame(props: Props) {
  const { trial, task, strip, go, outbox, blind = false } = props;
  const { held } = outbox;
  const unsent = outbox.waiting.filter((item) => !item.refused).length;
  const refused = outbox.waiting.length - unsent;
  const treatment = trial.treatments.find((item) => item.id === strip.received_id);
  const stage = TASKS.find(([key]) => key === task)?.[2];
  return (
    <main className="mx-auto flex min-h-0 w-full max-w-xl flex-1 flex-col bg-base-100 p-2 [&_.entry]:min-h-12">
      <h1 className="sr-only">Field book of {trial.title}</h1>
      <div className="flex items-center gap-2">
        <Link className="plain min-h-12 content-center" to={`/trials/${trial.id}/${stage}&strip=${strip.order}`}>
          Leave
        </Link>
        <div className="min-w-0 flex-1 leading-tight">
          <span className="block truncate">{trial.title}</span>
          <span role="status" className={`block truncate text-sm ${unsent ? "font-semibold" : "muted"}`}>
            {unsent
              ? `${unsent} on this device${held ? `: ${held}` : ", sending"}`
              : refused
                ? `${refused} not taken by the server`
                : "all on the server"}
          </span>
        </div>
        <Offline trial={trial} />
      </div>
      {trial.may.includes("record") && <Tasks task={task} change={props.change} />}
      {outbox.problem && (
        <p role="alert" className="caution mt-1.5 font-semibold text-error">
          {outbox.problem}
        </p>
      )}
      {outbox.room && (
        <p role="note" className="caution mt-1.5 py-1 text-sm">
          {outbox.room}
        </p>
      )}
      {refused > 0 && (
        <Link className="act mt-1.5 block min-h-12 content-center text-center" to="/waiting">
          {refused === 1 ? "1 record was not taken" : `${refused} records were not taken`}: correct
        </Link>
      )}
      <Reentry trialId={trial.id} />
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

/** The tasks in one row that slides under the thumb; the one at hand is always in sight. */
function Tasks({ task, change }: { task: Task; change: (task: Task) => void }) {
  const row = useRef<HTMLDivElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: slides when the task changes
  useEffect(() => {
    const pressed = row.current?.querySelector<HTMLElement>('[aria-pressed="true"]');
    if (row.current && pressed) row.current.scrollLeft = pressed.offsetLeft - row.current.clientWidth / 2;
  }, [task]);
  return (
    <div
      ref={row}
      role="group"
      aria-label="Task"
      className="mt-1.5 flex shrink-0 overflow-x-auto border border-base-content"
    >
      {TASKS.map(([key, name]) => (
        <button
          key={key}
          type="button"
          aria-pressed={key === task}
          className={`min-h-12 min-w-14 shrink-0 grow px-3 ${key === task ? "bg-base-content font-semibold text-base-100" : "bg-(--paper)"}`}
          onClick={() => change(key)}
        >
          {name}
        </button>
      ))}
    </div>
  );
}

/** The label's re-entry interval, where a spray was logged and has not run out. */
function Reentry({ trialId }: { trialId: string }) {
  const schedule = useSchedule(trialId);
  return schedule.data?.cautions.map((text) => (
    <p key={text} role="note" className="caution mt-1.5 py-1 text-sm leading-tight">
      {text}
    </p>
  ));
}
