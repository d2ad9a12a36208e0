/**
 * What was recorded on this device and may not be on the server yet. Every record lies in IndexedDB before
 * it is sent, under an id made here, so that a repeated sending is the same record. One sender at a time; the
 * records of one person are never sent by another.
 */
import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import { ask, client, Fault, type RecordKind, type Schemas } from "../../api/client";
import { namedHeaders, noteServerTime } from "../../api/device";
import kinds from "./kinds.json";

type Common = {
  id: string;
  person: string;
  /** Absent in records kept by older pages. */
  workspaceId?: string;
  trialId: string;
  stripId: string;
  /** Why the server would not take it; it waits for its maker to correct it then. */
  refused: string | null;
  refusal?: Refusal;
  made: number;
  /** Seconds by which this device's clock was known to be off when it was made. */
  clock?: number | null;
  /** Faults of the server over this record: it is tried again later, and never holds up the others. */
  tries?: number;
  retryAt?: number;
  trouble?: string;
};
/** What the server answered to a record it would not take; `current` is what it holds under the same id. */
export type Refusal = { status: number; code: string; field: string | null; current: Record<string, unknown> | null };
export type CountWaiting = Common & { kind: "count"; body: Schemas["StandCountIn"]; plantsPerM2: number };
export type SowingWaiting = Common & { kind: "sowing"; body: Schemas["PlantingRecordIn"] };
export type DepthWaiting = Common & { kind: "depth"; body: Schemas["DepthCheckIn"]; depthM: number };
export type DeviationWaiting = Common & { kind: "deviation"; body: Schemas["DeviationIn"]; words: string };
export type TapeWaiting = Common & { kind: "tape"; body: Schemas["TapeRunIn"]; words: string };
export type DugWaiting = Common & { kind: "dug"; body: Schemas["DugPlantIn"]; words: string };
export type MeasureWaiting = Common & { kind: "measure"; body: Schemas["PlantMeasureIn"]; words: string };
export type RatingWaiting = Common & { kind: "rating"; body: Schemas["RatingIn"] };
export type YieldWaiting = Common & { kind: "yield"; body: Schemas["YieldSampleIn"]; words: string };
export type LoadWaiting = Common & { kind: "load"; body: Schemas["HarvestLoadIn"]; words: string; kgHa: number | null };
export type EventWaiting = Common & { kind: "event"; body: Schemas["FieldEventIn"]; words: string };
export type PhotoWaiting = Common & { kind: "photo"; body: Schemas["PhotoIn"]; file: Blob };
/** A reading of any kind that the registry describes by its entries. */
export type ReadingWaiting = Common & {
  kind: "reading";
  recordKind: RecordKind;
  body: Record<string, unknown> & { strip_id: string; recorded_at: string };
  words: string;
};
export type VoidWaiting = Common & {
  kind: "void";
  recordId: string;
  version: number;
  /** What is voided; absent in voids of counts kept by older pages. */
  recordKind?: RecordKind;
};
export type Waiting =
  | CountWaiting
  | SowingWaiting
  | DepthWaiting
  | DeviationWaiting
  | TapeWaiting
  | DugWaiting
  | MeasureWaiting
  | RatingWaiting
  | YieldWaiting
  | LoadWaiting
  | EventWaiting
  | PhotoWaiting
  | ReadingWaiting
  | VoidWaiting;

interface Stored extends DBSchema {
  outbox: { key: string; value: Waiting };
}

let opened: Promise<IDBPDatabase<Stored>> | null = null;
const database = () => {
  opened ??= openDB<Stored>("cultrix", 1, { upgrade: (db) => void db.createObjectStore("outbox", { keyPath: "id" }) });
  return opened;
};

/** A record as it is kept now: pages of earlier versions called a void a strike. */
const asNow = (kept: Waiting): Waiting =>
  (kept.kind as string) === "strike" ? ({ ...kept, kind: "void" } as Waiting) : kept;

export async function waitingOf(person: string): Promise<Waiting[]> {
  const all = (await (await database()).getAll("outbox")).map(asNow);
  return all.filter((item) => item.person === person).sort((a, b) => a.made - b.made);
}
/** What other people made on this device: theirs to send, and only theirs to see. */
export async function waitingOfOthers(person: string): Promise<{ person: string; count: number }[]> {
  const counts = new Map<string, number>();
  for (const item of await (await database()).getAll("outbox"))
    if (item.person !== person) counts.set(item.person, (counts.get(item.person) ?? 0) + 1);
  return [...counts].map(([name, count]) => ({ person: name, count }));
}
export const putWaiting = async (waiting: Waiting) => void (await (await database()).put("outbox", waiting));
/** Put a record on the device; resolves once the device has confirmed that it is written. */
export async function keepWaiting(waiting: Waiting): Promise<void> {
  const db = await database();
  const writing = db.transaction("outbox", "readwrite", { durability: "strict" });
  await Promise.all([writing.store.put(waiting), writing.done]);
}
export const dropWaiting = async (id: string) => (await database()).delete("outbox", id);

type Stand = Schemas["StandOut"];
type Planting = Schemas["PlantingOut"];
type Scouting = Schemas["ScoutingOut"];
/** What the server made of a record; null for a void. */
export type Arrived =
  | Schemas["StandCountOut"]
  | Schemas["PlantingRecordOut"]
  | Schemas["DepthCheckOut"]
  | Schemas["DeviationOut"]
  | Schemas["TapeRunOut"]
  | Schemas["DugPlantOut"]
  | Schemas["PlantMeasureOut"]
  | Schemas["RatingOut"]
  | Schemas["YieldSampleOut"]
  | Schemas["HarvestLoadOut"]
  | Schemas["FieldEventOut"]
  | Schemas["PhotoOut"]
  | Schemas["ReadingOut"]
  | null;

/** Records of older pages do not say their workspace: it is their trial's, not the one that is open now. */
async function workspaceOf(waiting: Waiting): Promise<string> {
  if (waiting.workspaceId) return waiting.workspaceId;
  const path = { trial_id: waiting.trialId };
  return (await ask(client.GET("/api/trials/{trial_id}", { params: { path } }))).workspace_id;
}

async function sendOne(waiting: Waiting): Promise<Arrived> {
  const workspaceId = await workspaceOf(waiting);
  const headers = namedHeaders({ person: waiting.person, workspaceId, clock: waiting.clock });
  if (waiting.kind === "photo") return await sendPhoto(waiting, headers);
  if (waiting.kind === "void") {
    await ask(
      client.POST("/api/records/{kind}/{record_id}/void", {
        params: { path: { kind: waiting.recordKind ?? "stand-count", record_id: waiting.recordId } },
        headers,
        body: { voided: true, reason: "taken back in the field", version: waiting.version },
      }),
    );
    return null;
  }
  const kind = kindOf(waiting);
  // every kind has the same address but for its name, and the body that its task has typed
  return (await ask(
    client.PUT(
      `/api/trials/{trial_id}/${kind.address}/{record_id}` as "/api/trials/{trial_id}/planting-records/{record_id}",
      { params: { path: { trial_id: waiting.trialId, record_id: waiting.id } }, headers, body: waiting.body as never },
    ),
  )) as Arrived;
}

/** A photograph goes as a form, with the picture beside its words. */
function sendPhoto(waiting: PhotoWaiting, headers: Record<string, string>): Promise<Schemas["PhotoOut"]> {
  const form = new FormData();
  for (const [name, value] of Object.entries(waiting.body)) form.append(name, String(value));
  form.append("file", waiting.file, "strip.jpg");
  return ask(
    client.POST("/api/trials/{trial_id}/photos/{photo_id}", {
      params: { path: { trial_id: waiting.trialId, photo_id: waiting.id } },
      headers,
      // the generated type asks for the form's fields; the browser sends them as the form they are
      body: form as never,
      bodySerializer: (body: unknown) => body as FormData,
    }),
  );
}

const withOne = <One extends { id: string }>(rows: One[], gone: string, come: Arrived): One[] => [
  ...rows.filter((row) => row.id !== gone),
  ...(come ? [come as unknown as One] : []),
];
const goneOf = (waiting: Waiting) => (waiting.kind === "void" ? waiting.recordId : waiting.id);

type Answer = "stand" | "planting" | "scouting" | "estimates" | "harvest" | "events" | "readings";
/** A kind of record as the server's registry describes it; `entries` where nothing but typed values makes it. */
export type Kind = (typeof kinds)[number];
export const READINGS: readonly Kind[] = kinds.filter((kind) => kind.entries.length);
const BY_TASK = new Map<string, Kind>(kinds.map((kind) => [kind.task, kind]));
const BY_NAME = new Map<string, Kind>(kinds.map((kind) => [kind.kind, kind]));

/** The kind of record that waits, or that is to be voided, as the server's registry describes it. */
export function kindOf(waiting: Waiting): Kind {
  const named = waiting.kind === "void" || waiting.kind === "reading";
  const result = named ? BY_NAME.get(waiting.recordKind ?? "stand-count") : BY_TASK.get(waiting.kind);
  if (!result) throw new Error(`no kind of record is made by ${waiting.kind}`);
  return result;
}

/** Where a record of the field book shows: which answer of the server, and which of its lists; none where the desk made it. */
export function homeOf(waiting: Waiting): [Answer, string] | undefined {
  if (waiting.kind === "void" && !BY_NAME.has(waiting.recordKind ?? "stand-count")) return undefined;
  const { answer, list } = kindOf(waiting);
  return [answer as Answer, list];
}

type ByStrip = { strips: { strip_id: string }[] };

/** An answer that lists records by strip, as it is once one record has arrived. */
function grown<Answer extends ByStrip>(answer: Answer, waiting: Waiting, arrived: Arrived, list: string): Answer {
  const strips = answer.strips.map((strip) => {
    if (strip.strip_id !== waiting.stripId) return strip;
    const rows = (strip as Record<string, unknown>)[list] as { id: string }[];
    return { ...strip, [list]: withOne(rows, goneOf(waiting), arrived) };
  });
  return { ...answer, strips };
}

/** The stand as it is once one record has arrived, so that a count never leaves the screen between sending and asking anew. */
export function withArrived(stand: Stand | undefined, waiting: Waiting, arrived: Arrived): Stand | undefined {
  return stand && grown(stand, waiting, arrived, "counts");
}

/** The planting as it is once one record has arrived. */
export function withPlanted(planting: Planting | undefined, waiting: Waiting, arrived: Arrived): Planting | undefined {
  const home = homeOf(waiting);
  return planting && home?.[0] === "planting" ? grown(planting, waiting, arrived, home[1]) : planting;
}

/** The readings as they are once one has arrived. */
export const withRead = (readings: Schemas["ReadingsOut"] | undefined, waiting: Waiting, arrived: Arrived) =>
  readings && grown(readings, waiting, arrived, "readings");

/** What was scouted as it is once one record has arrived. */
export function withScouted(scouting: Scouting | undefined, waiting: Waiting, arrived: Arrived): Scouting | undefined {
  const home = homeOf(waiting);
  return scouting && home?.[0] === "scouting" ? grown(scouting, waiting, arrived, home[1]) : scouting;
}

/** The samples of yield as they are once one has arrived. */
export function withSampled(
  estimates: Schemas["EstimatesOut"] | undefined,
  waiting: Waiting,
  arrived: Arrived,
): Schemas["EstimatesOut"] | undefined {
  const home = homeOf(waiting);
  return estimates && home?.[0] === "estimates" ? grown(estimates, waiting, arrived, home[1]) : estimates;
}

/** The harvest as it is once a load has arrived. */
export function withWeighed(
  harvest: Schemas["HarvestOut"] | undefined,
  waiting: Waiting,
  arrived: Arrived,
): Schemas["HarvestOut"] | undefined {
  const home = homeOf(waiting);
  return harvest && home?.[0] === "harvest" ? grown(harvest, waiting, arrived, home[1]) : harvest;
}

/** The season's log as it is once one line has arrived. */
export const withNoted = (
  events: Schemas["FieldEventOut"][] | undefined,
  waiting: Waiting,
  arrived: Arrived,
): Schemas["FieldEventOut"][] | undefined => events && withOne(events, goneOf(waiting), arrived);

/** Unreachable, signed out, or somebody else signed in: none of them will go now, so wait with all. */
const holdsAll = (fault: Fault) =>
  fault.status === 0 ||
  fault.status === 401 ||
  fault.status === 429 ||
  fault.code === "csrf" ||
  fault.code === "other_person";
/** A fault of the server over one record: that one is tried again later, those behind it go on. */
const isTrouble = (fault: Fault) => fault.status >= 500;

const FIRST_WAIT_MS = 4_000;
const LONGEST_WAIT_MS = 300_000;
const waitAfter = (tries: number) => Math.min(FIRST_WAIT_MS * 2 ** (tries - 1), LONGEST_WAIT_MS);

/** The server's clock, asked before anything is sent; a server that cannot be reached is found out by the sending. */
async function compareClocks() {
  const before = Date.now();
  const answer = await ask(client.GET("/api/clock")).catch(() => null);
  if (answer?.now) noteServerTime(Date.parse(answer.now), before, Date.now());
}

/**
 * Send what waits, oldest first, each as the person's who made it; `arrived` hears of each before it leaves the outbox.
 * Returns how many arrived and why the rest had to wait, if it had to.
 */
export async function sendWaiting(
  person: string,
  arrived: (waiting: Waiting, record: Arrived) => void = () => undefined,
): Promise<{ sent: number; held: string }> {
  const work = async () => {
    let sent = 0;
    let trouble = "";
    const ready = (await waitingOf(person)).filter((item) => !item.refused && (item.retryAt ?? 0) <= Date.now());
    if (ready.length) await compareClocks();
    for (const waiting of ready) {
      try {
        arrived(waiting, await sendOne(waiting));
        await dropWaiting(waiting.id);
        sent += 1;
      } catch (error) {
        if (!(error instanceof Fault)) throw error;
        // cookies cleared meanwhile: ask for a new token, and send again in a while
        if (error.code === "csrf") await ask(client.GET("/api/session")).catch(() => undefined);
        if (holdsAll(error)) return { sent, held: error.status === 0 ? "no signal" : error.message };
        if (isTrouble(error)) {
          const tries = (waiting.tries ?? 0) + 1;
          trouble = error.message;
          await putWaiting({ ...waiting, tries, retryAt: Date.now() + waitAfter(tries), trouble });
          continue;
        }
        const refusal = { status: error.status, code: error.code, field: error.field, current: error.current };
        await putWaiting({ ...waiting, refused: error.message, refusal });
      }
    }
    return { sent, held: trouble };
  };
  if (!navigator.locks) return work();
  return navigator.locks.request("cultrix-outbox", work);
}

/** What waits, as text for a file: the way out when the server cannot be reached and the device must be given away. */
export async function exportWaiting(person: string): Promise<string> {
  const rows = await Promise.all(
    (await waitingOf(person)).map(async (item) =>
      item.kind === "photo" ? { ...item, file: await base64Of(item.file) } : item,
    ),
  );
  return JSON.stringify({ cultrix_outbox: 1, person, records: rows }, null, 1);
}

const base64Of = async (file: Blob) => {
  const bytes = new Uint8Array(await file.arrayBuffer());
  let text = "";
  for (const byte of bytes) text += String.fromCharCode(byte);
  return btoa(text);
};

/**
 * Read a saved file back into the outbox. Ids are those of the records, so that what has arrived meanwhile is the same record
 * and nothing is doubled. Returns how many were taken; throws with what is wrong when the file is not one of these.
 */
export async function importWaiting(text: string): Promise<number> {
  let rows: Waiting[];
  try {
    const file = JSON.parse(text) as { cultrix_outbox?: number; records?: unknown };
    if (file.cultrix_outbox !== 1 || !Array.isArray(file.records)) throw new Error();
    rows = file.records.map(readBack);
  } catch {
    throw new Error("This is not a file of records saved at sign-out. Choose the file named cultrix-records-….json.");
  }
  const there = new Set((await (await database()).getAllKeys("outbox")) as string[]);
  const fresh = rows.filter((row) => !there.has(row.id));
  for (const item of fresh) await keepWaiting(item);
  return fresh.length;
}

const KINDS = new Set<string>([...BY_TASK.keys(), "void", "reading"]);

function readBack(row: unknown): Waiting {
  const item = asNow(row as Waiting);
  const named = [item.id, item.person, item.trialId, item.stripId].every((part) => typeof part === "string" && part);
  if (!named || !KINDS.has(item.kind) || typeof item.made !== "number") throw new Error();
  if (item.kind !== "photo") return { ...item, retryAt: 0 };
  const bytes = Uint8Array.from(atob(item.file as unknown as string), (letter) => letter.charCodeAt(0));
  return { ...item, retryAt: 0, file: new Blob([bytes], { type: "image/jpeg" }) };
}
