import { useCallback, useEffect, useRef, useState } from "react";
import { useTrialChanged } from "../../api/queries";
import { dropWaiting, putWaiting, sendWaiting, type Waiting, waitingOf } from "./outbox";

const EVERY_MS = 4_000;

/** What waits on this device for a trial, sent on as soon as the server can be reached. */
export function useOutbox(person: string, trialId: string) {
  const changed = useTrialChanged(trialId);
  const [waiting, setWaiting] = useState<Waiting[]>([]);
  const [held, setHeld] = useState("");
  const fresh = useRef(changed);
  fresh.current = changed;

  const look = useCallback(async () => setWaiting(await waitingOf(person)), [person]);
  const send = useCallback(async () => {
    const { sent, held: why } = await sendWaiting(person);
    setHeld(why);
    if (sent) fresh.current();
    await look();
  }, [person, look]);

  useEffect(() => {
    void look().then(send);
    const timer = setInterval(async () => {
      if ((await waitingOf(person)).some((one) => !one.refused)) await send();
    }, EVERY_MS);
    return () => clearInterval(timer);
  }, [look, send, person]);

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
