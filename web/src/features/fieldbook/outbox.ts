/**
 * What was recorded on this device and may not be on the server yet. Every record lies in IndexedDB before
 * it is sent, under an id made here, so that a repeated sending is the same record. One sender at a time.
 */
import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import { ask, client, Fault, type Schemas } from "../../api/client";

export type CountWaiting = {
  id: string;
  kind: "count";
  person: string;
  trialId: string;
  stripId: string;
  body: Schemas["StandCountIn"];
  plantsPerM2: number;
  refused: string | null;
  made: number;
};
export type StrikeWaiting = {
  id: string;
  kind: "strike";
  person: string;
  trialId: string;
  stripId: string;
  recordId: string;
  version: number;
  refused: string | null;
  made: number;
};
export type Waiting = CountWaiting | StrikeWaiting;

interface Stored extends DBSchema {
  outbox: { key: string; value: Waiting };
}

let opened: Promise<IDBPDatabase<Stored>> | null = null;
const database = () => {
  opened ??= openDB<Stored>("cultrix", 1, { upgrade: (db) => void db.createObjectStore("outbox", { keyPath: "id" }) });
  return opened;
};

export async function waitingOf(person: string): Promise<Waiting[]> {
  const all = await (await database()).getAll("outbox");
  return all.filter((one) => one.person === person).sort((a, b) => a.made - b.made);
}
export const putWaiting = async (waiting: Waiting) => void (await (await database()).put("outbox", waiting));
export const dropWaiting = async (id: string) => (await database()).delete("outbox", id);

type Count = Schemas["StandCountOut"];

async function sendOne(waiting: Waiting): Promise<Count | null> {
  if (waiting.kind === "count") {
    return await ask(
      client.PUT("/api/trials/{trial_id}/stand-counts/{count_id}", {
        params: { path: { trial_id: waiting.trialId, count_id: waiting.id } },
        body: waiting.body,
      }),
    );
  }
  await ask(
    client.POST("/api/records/{kind}/{record_id}/strike", {
      params: { path: { kind: "stand-count", record_id: waiting.recordId } },
      body: { struck: true, reason: "taken back in the field", version: waiting.version },
    }),
  );
  return null;
}

/** The stand as it is once one record has arrived, so that a count never leaves the screen between sending and asking anew. */
export function withArrived(
  stand: Schemas["StandOut"] | undefined,
  waiting: Waiting,
  count: Count | null,
): Schemas["StandOut"] | undefined {
  if (!stand) return undefined;
  const gone = waiting.kind === "strike" ? waiting.recordId : waiting.id;
  return {
    ...stand,
    strips: stand.strips.map((strip) =>
      strip.strip_id === waiting.stripId
        ? { ...strip, counts: [...strip.counts.filter((one) => one.id !== gone), ...(count ? [count] : [])] }
        : strip,
    ),
  };
}

/** Unreachable, signed out or out of order at the server: wait. Anything else is the server's answer to the record. */
const passing = (fault: Fault) =>
  fault.status === 0 || fault.status === 401 || fault.status === 429 || fault.status >= 500;

/**
 * Send what waits, oldest first; `arrived` hears of each before it leaves the outbox.
 * Returns how many arrived and why the rest had to wait, if it had to.
 */
export async function sendWaiting(
  person: string,
  arrived: (waiting: Waiting, count: Count | null) => void = () => undefined,
): Promise<{ sent: number; held: string }> {
  const work = async () => {
    let sent = 0;
    for (const waiting of await waitingOf(person)) {
      if (waiting.refused) continue;
      try {
        arrived(waiting, await sendOne(waiting));
        await dropWaiting(waiting.id);
        sent += 1;
      } catch (error) {
        if (!(error instanceof Fault)) throw error;
        if (passing(error)) return { sent, held: error.status === 0 ? "no signal" : error.message };
        await putWaiting({ ...waiting, refused: error.message });
      }
    }
    return { sent, held: "" };
  };
  if (!navigator.locks) return work();
  return navigator.locks.request("cultrix-outbox", work);
}
