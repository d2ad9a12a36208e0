import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { useTrialChanged } from "../../api/queries";
import {
  dropWaiting,
  homeOf,
  putWaiting,
  sendWaiting,
  type Waiting,
  waitingOf,
  withArrived,
  withNoted,
  withPlanted,
  withSampled,
  withScouted,
  withWeighed,
} from "./outbox";

const EVERY_MS = 4_000;
const RECKONED = [
  "trial",
  "trials",
  "today",
  "stand-analysis",
  "schedule",
  "sampling",
  "estimates",
  "harvest",
  "yield-logs",
];

/** What waits on this device for a trial, sent on as soon as the server can be reached. */
export function useOutbox(person: string, trialId: string) {
  const cache = useQueryClient();
  const changed = useTrialChanged(trialId);
  const [waiting, setWaiting] = useState<Waiting[]>([]);
  const [held, setHeld] = useState("");

  const fresh = useRef(changed);
  fresh.current = changed;
  const known = useRef(0);
  /** What lies in the outbox now; when another tab has sent some of it, the server's numbers are asked for anew. */
  const look = useCallback(async () => {
    const now = await waitingOf(person);
    if (now.length < known.current) fresh.current();
    known.current = now.length;
    setWaiting(now);
    return now;
  }, [person]);
  const send = useCallback(async () => {
    const { sent, held: why } = await sendWaiting(person, (one, record) => {
      const put = <Answer>(key: string, grow: (now: Answer | undefined) => Answer | undefined) =>
        cache.setQueryData<Answer>([key, one.trialId], grow);
      const home = homeOf(one)?.[0];
      if (home === "stand") put<Schemas["StandOut"]>("stand", (now) => withArrived(now, one, record));
      if (home === "planting") put<Schemas["PlantingOut"]>("planting", (now) => withPlanted(now, one, record));
      if (home === "scouting") put<Schemas["ScoutingOut"]>("scouting", (now) => withScouted(now, one, record));
      if (home === "estimates") put<Schemas["EstimatesOut"]>("estimates", (now) => withSampled(now, one, record));
      if (home === "harvest") put<Schemas["HarvestOut"]>("harvest", (now) => withWeighed(now, one, record));
      if (home === "events") put<Schemas["FieldEventOut"][]>("events", (now) => withNoted(now, one, record));
    });
    setHeld(why);
    const left = await look();
    // what the desk reckons from these records is asked for anew once nothing is on its way any more
    if (sent && !left.some((one) => !one.refused)) {
      for (const key of RECKONED) void cache.invalidateQueries({ queryKey: [key] });
    }
  }, [person, look, cache]);

  useEffect(() => {
    void look().then(send);
    const timer = setInterval(async () => {
      if ((await look()).some((one) => !one.refused)) await send();
    }, EVERY_MS);
    return () => clearInterval(timer);
  }, [look, send]);

  const add = useCallback(
    async (one: Waiting) => {
      await putWaiting(one);
      await look();
      void send();
    },
    [look, send],
  );
  const drop = useCallback(
    async (id: string) => {
      await dropWaiting(id);
      await look();
    },
    [look],
  );
  return {
    waiting: waiting.filter((one) => one.trialId === trialId),
    elsewhere: waiting.filter((one) => one.trialId !== trialId).length,
    held,
    add,
    drop,
  };
}
