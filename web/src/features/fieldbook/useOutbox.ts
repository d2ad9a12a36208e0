import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { clockOffset } from "../../api/device";
import { askAnew, useTrialChanged } from "../../api/queries";
import { AFTER_ARRIVAL } from "../../api/reads";
import { roomLeft, roomWords } from "../../app/offline";
import {
  dropWaiting,
  homeOf,
  keepWaiting,
  sendWaiting,
  type Waiting,
  waitingOf,
  withArrived,
  withNoted,
  withPlanted,
  withRead,
  withSampled,
  withScouted,
  withWeighed,
} from "./outbox";

const EVERY_MS = 4_000;

/** What to say of a record that the device would not take; its entry is still on the screen. */
function notKept(error: unknown): string {
  const full = error instanceof DOMException && error.name === "QuotaExceededError";
  return full
    ? "NOT saved: this device has no room left. The entry is still here. Remove photographs or apps from the device, then record it again."
    : "NOT saved: this device did not take it. The entry is still here. Record it again; if it stays, write it down.";
}

/** What waits on this device for a trial, sent on as soon as the server can be reached. */
export function useOutbox(person: string, trialId: string, workspaceId: string) {
  const cache = useQueryClient();
  const changed = useTrialChanged(trialId);
  const [waiting, setWaiting] = useState<Waiting[]>([]);
  const [held, setHeld] = useState("");
  const asked = useRef(false);

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
    const { sent, held: why } = await sendWaiting(person, (item, record) => {
      const put = <Answer>(key: string, grow: (now: Answer | undefined) => Answer | undefined) => {
        const queryKey = [key, item.trialId];
        cache.setQueryData<Answer>(queryKey, grow);
        // an answer on its way was given before the record arrived, and would take it off the screen again
        if (cache.isFetching({ queryKey })) void askAnew(cache, { queryKey });
      };
      const home = homeOf(item)?.[0];
      if (home === "stand") put<Schemas["StandOut"]>("stand", (now) => withArrived(now, item, record));
      if (home === "planting") put<Schemas["PlantingOut"]>("planting", (now) => withPlanted(now, item, record));
      if (home === "readings") put<Schemas["ReadingsOut"]>("readings", (now) => withRead(now, item, record));
      if (home === "scouting") put<Schemas["ScoutingOut"]>("scouting", (now) => withScouted(now, item, record));
      if (home === "estimates") put<Schemas["EstimatesOut"]>("estimates", (now) => withSampled(now, item, record));
      if (home === "harvest") put<Schemas["HarvestOut"]>("harvest", (now) => withWeighed(now, item, record));
      if (home === "events") put<Schemas["FieldEventOut"][]>("events", (now) => withNoted(now, item, record));
    });
    setHeld(why);
    const left = await look();
    // what the desk reckons from these records is asked for anew once nothing is on its way any more
    if (sent && !left.some((item) => !item.refused)) {
      for (const { key } of AFTER_ARRIVAL) void askAnew(cache, { queryKey: [key] });
    }
  }, [person, look, cache]);

  useEffect(() => {
    void look().then(send);
    const timer = setInterval(async () => {
      if ((await look()).some((item) => !item.refused)) await send();
    }, EVERY_MS);
    return () => clearInterval(timer);
  }, [look, send]);

  const writing = useRef(false);
  const [problem, setProblem] = useState("");
  const [room, setRoom] = useState("");
  /**
   * Put a record on this device and send it on. True once the device has confirmed it: only then may its entry be cleared.
   * False where it could not be written, or where the one before is still being written (the second half of a double tap).
   */
  const add = useCallback(
    async (item: Waiting): Promise<boolean> => {
      if (writing.current) return false;
      writing.current = true;
      try {
        await keepWaiting({ workspaceId, clock: clockOffset(), ...item });
        setProblem("");
      } catch (error) {
        setProblem(notKept(error));
        return false;
      } finally {
        writing.current = false;
      }
      await look();
      void send();
      void roomLeft().then((left) => setRoom(roomWords(left)));
      if (!asked.current) {
        asked.current = true;
        void navigator.storage?.persist?.().catch(() => false);
      }
      return true;
    },
    [look, send, workspaceId],
  );
  const drop = useCallback(
    async (id: string) => {
      await dropWaiting(id);
      await look();
    },
    [look],
  );
  return {
    waiting: waiting.filter((item) => item.trialId === trialId),
    elsewhere: waiting.filter((item) => item.trialId !== trialId).length,
    held,
    problem,
    room,
    add,
    drop,
  };
}
