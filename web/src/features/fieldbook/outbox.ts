/**
 * What was recorded on this device and may not be on the server yet. Every record lies in IndexedDB before
 * it is sent, under an id made here, so that a repeated sending is the same record. One sender at a time.
 */
import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import { ask, client, Fault, type Schemas } from "../../api/client";

type Common = { id: string; person: string; trialId: string; stripId: string; refused: string | null; made: number };
export type CountWaiting = Common & { kind: "count"; body: Schemas["StandCountIn"]; plantsPerM2: number };
export type SowingWaiting = Common & { kind: "sowing"; body: Schemas["PlantingRecordIn"] };
export type DepthWaiting = Common & { kind: "depth"; body: Schemas["DepthCheckIn"]; depthM: number };
export type DeviationWaiting = Common & { kind: "deviation"; body: Schemas["DeviationIn"]; words: string };
export type StrikeWaiting = Common & {
  kind: "strike";
  recordId: string;
  version: number;
  /** What is struck; absent in strikes of counts kept by older pages. */
  recordKind?: "stand-count" | "planting-record" | "depth-check" | "deviation";
};
export type Waiting = CountWaiting | SowingWaiting | DepthWaiting | DeviationWaiting | StrikeWaiting;

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

type Stand = Schemas["StandOut"];
type Planting = Schemas["PlantingOut"];
/** What the server made of a record; null for a strike. */
export type Arrived =
  | Schemas["StandCountOut"]
  | Schemas["PlantingRecordOut"]
  | Schemas["DepthCheckOut"]
  | Schemas["DeviationOut"]
  | null;

async function sendOne(waiting: Waiting): Promise<Arrived> {
  const trial = { trial_id: waiting.trialId };
  switch (waiting.kind) {
    case "count":
      return await ask(
        client.PUT("/api/trials/{trial_id}/stand-counts/{count_id}", {
          params: { path: { ...trial, count_id: waiting.id } },
          body: waiting.body,
        }),
      );
    case "sowing":
      return await ask(
        client.PUT("/api/trials/{trial_id}/planting-records/{record_id}", {
          params: { path: { ...trial, record_id: waiting.id } },
          body: waiting.body,
        }),
      );
    case "depth":
      return await ask(
        client.PUT("/api/trials/{trial_id}/depth-checks/{check_id}", {
          params: { path: { ...trial, check_id: waiting.id } },
          body: waiting.body,
        }),
      );
    case "deviation":
      return await ask(
        client.PUT("/api/trials/{trial_id}/deviations/{deviation_id}", {
          params: { path: { ...trial, deviation_id: waiting.id } },
          body: waiting.body,
        }),
      );
    case "strike":
      await ask(
        client.POST("/api/records/{kind}/{record_id}/strike", {
          params: { path: { kind: waiting.recordKind ?? "stand-count", record_id: waiting.recordId } },
          body: { struck: true, reason: "taken back in the field", version: waiting.version },
        }),
      );
      return null;
  }
}

const withOne = <One extends { id: string }>(rows: One[], gone: string, come: Arrived): One[] => [
  ...rows.filter((one) => one.id !== gone),
  ...(come ? [come as unknown as One] : []),
];

/** The stand as it is once one record has arrived, so that a count never leaves the screen between sending and asking anew. */
export function withArrived(stand: Stand | undefined, waiting: Waiting, arrived: Arrived): Stand | undefined {
  if (!stand) return undefined;
  const gone = waiting.kind === "strike" ? waiting.recordId : waiting.id;
  return {
    ...stand,
    strips: stand.strips.map((strip) =>
      strip.strip_id === waiting.stripId ? { ...strip, counts: withOne(strip.counts, gone, arrived) } : strip,
    ),
  };
}

type Place = "records" | "depths" | "deviations";
const PLACES: Record<string, Place | undefined> = {
  sowing: "records",
  depth: "depths",
  deviation: "deviations",
  "planting-record": "records",
  "depth-check": "depths",
};

/** The planting as it is once one record has arrived. */
export function withPlanted(planting: Planting | undefined, waiting: Waiting, arrived: Arrived): Planting | undefined {
  const place = PLACES[waiting.kind === "strike" ? (waiting.recordKind ?? "") : waiting.kind];
  if (!planting || !place) return planting;
  const gone = waiting.kind === "strike" ? waiting.recordId : waiting.id;
  const grown = (strip: Planting["strips"][number]) => {
    if (place === "records") return { ...strip, records: withOne(strip.records, gone, arrived) };
    if (place === "depths") return { ...strip, depths: withOne(strip.depths, gone, arrived) };
    return { ...strip, deviations: withOne(strip.deviations, gone, arrived) };
  };
  return {
    ...planting,
    strips: planting.strips.map((strip) => (strip.strip_id === waiting.stripId ? grown(strip) : strip)),
  };
}

/** Whether a record belongs to the stand rather than to the planting. */
export const ofStand = (waiting: Waiting) =>
  waiting.kind === "count" ||
  (waiting.kind === "strike" && (waiting.recordKind === undefined || waiting.recordKind === "stand-count"));

/** Unreachable, signed out or out of order at the server: wait. Anything else is the server's answer to the record. */
const passing = (fault: Fault) =>
  fault.status === 0 || fault.status === 401 || fault.status === 429 || fault.status >= 500;

/**
 * Send what waits, oldest first; `arrived` hears of each before it leaves the outbox.
 * Returns how many arrived and why the rest had to wait, if it had to.
 */
export async function sendWaiting(
  person: string,
  arrived: (waiting: Waiting, record: Arrived) => void = () => undefined,
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
