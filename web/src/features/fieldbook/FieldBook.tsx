import { type UseQueryResult, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import type { Strip, Trial } from "../../api/client";
import { NEWER } from "../../api/pack";
import { useEstimates, useHarvest, usePlanting, useReadings, useScouting, useStand, useTrial } from "../../api/queries";
import { READS } from "../../api/reads";
import { useHere } from "../../app/Gate";
import { Marks } from "../../app/Marks";
import { OfWorkspace } from "../../app/OfWorkspace";
import { Waiting } from "../../ui/Waiting";
import { BookFrame, isTask, readingOf, type Task } from "./BookFrame";
import type { BookProps } from "./bookProps";
import { CountBook } from "./CountBook";
import { DepthBook } from "./DepthBook";
import { DigBook } from "./DigBook";
import { inOrder, useDriving } from "./driving";
import { HarvestBook } from "./HarvestBook";
import { MeasureBook } from "./MeasureBook";
import { NoteBook } from "./NoteBook";
import type { Kind } from "./outbox";
import { PhotoBook } from "./PhotoBook";
import { RateBook } from "./RateBook";
import { ReadingBook } from "./ReadingBook";
import { SowBook } from "./SowBook";
import { TapeBook } from "./TapeBook";
import { useOutbox } from "./useOutbox";
import { YieldBook } from "./YieldBook";

/** The field book, full screen: one task, one strip at a time, with or without a signal. */
export function FieldBook() {
  const { trialId = "" } = useParams();
  const { workspace } = useHere();
  const trial = useTrial(trialId);
  const cache = useQueryClient();
  // the network has answered after all: what was shown from the pack is asked for once more, not over and over
  useEffect(() => {
    const last = new Map<string, number>();
    const renew = (event: Event) => {
      const address = String((event as CustomEvent<string>).detail);
      const key = READS.find((read) => read.path.replace("{trial_id}", trialId) === address)?.key;
      if (!key) return;
      if (Date.now() - (last.get(key) ?? 0) < RENEW_EVERY_MS) return;
      last.set(key, Date.now());
      // a moment later: the pack must have it before it is asked for again
      setTimeout(() => void cache.invalidateQueries({ queryKey: [key, trialId] }), RENEW_AFTER_MS);
    };
    window.addEventListener(NEWER, renew);
    return () => window.removeEventListener(NEWER, renew);
  }, [cache, trialId]);
  if (!trial.data) return <Waiting query={trial} />;
  if (!trial.data.strips.length) {
    return (
      <main className="p-4">
        There is no strip to count yet. <Link to={`/trials/${trialId}/layout`}>Draw the layout first.</Link>
      </main>
    );
  }
  return (
    <OfWorkspace trial={trial.data}>
      <div className="flex h-dvh flex-col">
        <Marks workspace={workspace} />
        <Book trial={trial.data} />
      </div>
    </OfWorkspace>
  );
}

const RENEW_EVERY_MS = 30_000;
const RENEW_AFTER_MS = 400;

function Book({ trial }: { trial: Trial }) {
  const { person } = useHere();
  const [search, setSearch] = useSearchParams();
  const asked = search.get("task");
  const [trait] = useState(search.get("trait")); // the address loses it before the book has what it reads
  const [first] = useState(asked);
  const [task, setTask] = useState<Task>(isTask(asked) ? asked : "count");
  const driving = useDriving(trial);
  const standing = trial.strips.filter((item) => !item.lost);
  const order = task === "sowing" || task === "harvest" ? inOrder(standing, driving.order) : standing;
  const [chosen, setChosen] = useState(Number(search.get("strip")));
  const at = (number: number) =>
    Math.max(
      order.findIndex((item) => item.order === number),
      0,
    );
  const strip = order[at(chosen)] as Strip;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the address follows strip and task, never the other way round
  useEffect(
    () => setSearch({ strip: String(strip.order), ...(task === "count" ? {} : { task }) }, { replace: true }),
    [strip.order, task],
  );
  const outbox = useOutbox(person.username, trial.id, trial.workspace_id);
  const shared: BookProps = {
    trial,
    strip,
    outbox,
    choose: (next) => setChosen(next.order),
    go: (step) => setChosen((now) => order[(at(now) + step + order.length) % order.length]?.order ?? now),
    change: setTask,
  };
  // each task reads what it needs and nothing else: one answer that fails stops one task
  if (task === "sowing") return <Sowing {...shared} driving={driving} order={order} />;
  if (task === "depth") return <Depth {...shared} />;
  if (task === "yield") return <Yield {...shared} />;
  if (task === "harvest") return <Harvest {...shared} driving={driving} order={order} />;
  if (task === "note") return <NoteBook {...shared} />;
  if (task === "count") return <Count {...shared} />;
  const reading = readingOf(task);
  if (reading) return <Reading {...shared} kind={reading} task={task} />;
  return <Scouted {...shared} task={task as ScoutedTask} asked={task === first ? trait : null} />;
}

type Driven = BookProps & { driving: ReturnType<typeof useDriving>; order: Strip[] };

const SLOW_MS = 2_500;

/** A task whose reading failed or takes long: the other tasks stay in reach. A moment's reading shows no half of a page. */
function Unread({ query, task, ...props }: BookProps & { query: UseQueryResult<unknown>; task: Task }) {
  const [slow, setSlow] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => setSlow(true), SLOW_MS);
    return () => clearTimeout(timer);
  }, []);
  if (query.isPending && !slow) return <Waiting query={query} />;
  return (
    <BookFrame {...props} task={task} layer="plan">
      <Waiting query={query} />
    </BookFrame>
  );
}

function Count(props: BookProps) {
  const stand = useStand(props.trial.id);
  return stand.data ? <CountBook {...props} stand={stand.data} /> : <Unread {...props} query={stand} task="count" />;
}

function Sowing(props: Driven) {
  const planting = usePlanting(props.trial.id);
  if (!planting.data) return <Unread {...props} query={planting} task="sowing" />;
  return <SowBook {...props} planting={planting.data} />;
}

function Depth(props: BookProps) {
  const planting = usePlanting(props.trial.id);
  if (!planting.data) return <Unread {...props} query={planting} task="depth" />;
  return <DepthBook {...props} planting={planting.data} />;
}

function Yield(props: BookProps) {
  const estimates = useEstimates(props.trial.id);
  if (!estimates.data) return <Unread {...props} query={estimates} task="yield" />;
  return <YieldBook {...props} estimates={estimates.data} />;
}

function Harvest(props: Driven) {
  const harvest = useHarvest(props.trial.id);
  if (!harvest.data) return <Unread {...props} query={harvest} task="harvest" />;
  return <HarvestBook {...props} harvest={harvest.data} />;
}

function Reading(props: BookProps & { kind: Kind; task: Task }) {
  const readings = useReadings(props.trial.id);
  if (!readings.data) return <Unread {...props} query={readings} />;
  return <ReadingBook key={props.kind.kind} {...props} readings={readings.data} />;
}

type ScoutedTask = "tape" | "dig" | "measure" | "rate" | "photo";
type ScoutedProps = BookProps & { task: ScoutedTask; asked: string | null };

function Scouted({ task, asked, ...props }: ScoutedProps) {
  const scouting = useScouting(props.trial.id);
  if (!scouting.data) return <Unread {...props} query={scouting} task={task} />;
  const read = { ...props, scouting: scouting.data };
  if (task === "tape") return <TapeBook {...read} />;
  if (task === "dig") return <DigBook {...read} />;
  if (task === "measure") return <MeasureBook {...read} asked={asked} />;
  if (task === "rate") return <RateBook {...read} asked={asked} />;
  return <PhotoBook {...read} />;
}
