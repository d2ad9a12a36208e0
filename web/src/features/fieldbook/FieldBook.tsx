import { useEffect, useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import type { Strip, Trial } from "../../api/client";
import { useEstimates, useHarvest, usePlanting, useScouting, useStand, useTrial } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { Waiting } from "../../ui/Waiting";
import { isTask, type Task } from "./BookFrame";
import { CountBook } from "./CountBook";
import { DepthBook } from "./DepthBook";
import { DigBook } from "./DigBook";
import { inOrder, useDriving } from "./driving";
import { HarvestBook } from "./HarvestBook";
import { MeasureBook } from "./MeasureBook";
import { NoteBook } from "./NoteBook";
import { PhotoBook } from "./PhotoBook";
import { RateBook } from "./RateBook";
import { SowBook } from "./SowBook";
import { TapeBook } from "./TapeBook";
import { useOutbox } from "./useOutbox";
import { YieldBook } from "./YieldBook";

export type BookProps = {
  trial: Trial;
  strip: Strip;
  choose: (strip: Strip) => void;
  go: (step: number) => void;
  outbox: ReturnType<typeof useOutbox>;
  change: (task: Task) => void;
};

/** The field book, full screen: one task, one strip at a time, with or without a signal. */
export function FieldBook() {
  const { trialId = "" } = useParams();
  const trial = useTrial(trialId);
  const stand = useStand(trialId);
  const planting = usePlanting(trialId);
  const scouting = useScouting(trialId);
  const estimates = useEstimates(trialId);
  const harvest = useHarvest(trialId);
  if (!trial.data) return <Waiting query={trial} />;
  if (!stand.data) return <Waiting query={stand} />;
  if (!planting.data) return <Waiting query={planting} />;
  if (!scouting.data) return <Waiting query={scouting} />;
  if (!estimates.data) return <Waiting query={estimates} />;
  if (!harvest.data) return <Waiting query={harvest} />;
  if (!trial.data.strips.length) {
    return (
      <main className="p-4">
        There is no strip to count yet. <Link to={`/trials/${trialId}/layout`}>Draw the layout first.</Link>
      </main>
    );
  }
  return (
    <Book
      trial={trial.data}
      stand={stand.data}
      planting={planting.data}
      scouting={scouting.data}
      estimates={estimates.data}
      harvest={harvest.data}
    />
  );
}

type Loaded = {
  trial: Trial;
  stand: NonNullable<ReturnType<typeof useStand>["data"]>;
  planting: NonNullable<ReturnType<typeof usePlanting>["data"]>;
  scouting: NonNullable<ReturnType<typeof useScouting>["data"]>;
  estimates: NonNullable<ReturnType<typeof useEstimates>["data"]>;
  harvest: NonNullable<ReturnType<typeof useHarvest>["data"]>;
};

function Book({ trial, stand, planting, scouting, estimates, harvest }: Loaded) {
  const { person } = useHere();
  const [search, setSearch] = useSearchParams();
  const asked = search.get("task");
  const [task, setTask] = useState<Task>(isTask(asked) ? asked : "count");
  const trait = search.get("trait");
  const driving = useDriving(trial);
  const standing = trial.strips.filter((one) => !one.lost);
  const order = task === "sowing" || task === "harvest" ? inOrder(standing, driving.order) : standing;
  const [chosen, setChosen] = useState(Number(search.get("strip")));
  const at = (number: number) =>
    Math.max(
      order.findIndex((one) => one.order === number),
      0,
    );
  const strip = order[at(chosen)] as Strip;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the address follows strip and task, never the other way round
  useEffect(
    () => setSearch({ strip: String(strip.order), ...(task === "count" ? {} : { task }) }, { replace: true }),
    [strip.order, task],
  );
  const outbox = useOutbox(person.username, trial.id);
  const shared: BookProps = {
    trial,
    strip,
    outbox,
    choose: (next) => setChosen(next.order),
    go: (step) => setChosen((now) => order[(at(now) + step + order.length) % order.length]?.order ?? now),
    change: setTask,
  };
  if (task === "sowing") return <SowBook {...shared} planting={planting} driving={driving} order={order} />;
  if (task === "depth") return <DepthBook {...shared} planting={planting} />;
  if (task === "tape") return <TapeBook {...shared} scouting={scouting} />;
  if (task === "dig") return <DigBook {...shared} scouting={scouting} />;
  if (task === "measure") return <MeasureBook {...shared} scouting={scouting} asked={trait} />;
  if (task === "rate") return <RateBook {...shared} scouting={scouting} asked={trait} />;
  if (task === "yield") return <YieldBook {...shared} estimates={estimates} />;
  if (task === "harvest") return <HarvestBook {...shared} harvest={harvest} driving={driving} order={order} />;
  if (task === "note") return <NoteBook {...shared} />;
  if (task === "photo") return <PhotoBook {...shared} scouting={scouting} />;
  return <CountBook {...shared} stand={stand} />;
}
