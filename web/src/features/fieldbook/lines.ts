/** Records of one strip as they stand on the server and on this device together, and taking one back. */
import type { RecordKind } from "../../api/client";
import type { BookLine } from "./BookList";
import type { Waiting } from "./outbox";
import type { useOutbox } from "./useOutbox";

export type Line = BookLine & { version: number; kind: RecordKind };
type Kind = Exclude<Waiting["kind"], "void">;
type Of<K extends Kind> = Extract<Waiting, { kind: K }>;

type Read<K extends Kind, Kept> = {
  /** Kinds of the outbox and of the server's records. */
  waitingKind: K;
  recordKind: RecordKind;
  stripId: string;
  kept: Kept[];
  waiting: Waiting[];
  words: (kept: Kept) => string;
  waitingWords: (waiting: Of<K>) => string;
};

export const voidedIn = (waiting: Waiting[]) =>
  new Set(waiting.flatMap((item) => (item.kind === "void" ? [item.recordId] : [])));

/** The mark of a record whose moment was corrected, for the device's clock was wrong. */
export const clockMark = (item: { clock_shift_s?: number | null }) => (item.clock_shift_s ? " (time corrected)" : "");

/** The records of a kind on a strip, oldest first; what is voided on this device is gone already. */
export function linesOf<K extends Kind, Kept extends { id: string; version: number; clock_shift_s?: number | null }>(
  read: Read<K, Kept>,
): Line[] {
  const voided = voidedIn(read.waiting);
  const kept = read.kept.filter((item) => !voided.has(item.id));
  const known = new Set(kept.map((item) => item.id));
  const here = read.waiting.filter(
    (item) => item.kind === read.waitingKind && item.stripId === read.stripId && !known.has(item.id),
  );
  return [
    ...kept.map((item) => ({
      id: item.id,
      kind: read.recordKind,
      text: `${read.words(item)}${clockMark(item)}`,
      version: item.version,
      waiting: false,
      refused: null,
    })),
    ...here.map((item) => ({
      id: item.id,
      kind: read.recordKind,
      text: read.waitingWords(item as Of<K>),
      version: 1,
      waiting: true,
      refused: item.refused,
    })),
  ];
}

/** Take a record back: out of the outbox when it is still here, else by a void that waits like any other record. */
export async function takeBack(
  line: Pick<Line, "id" | "waiting" | "version" | "kind"> | undefined,
  outbox: ReturnType<typeof useOutbox>,
  owner: { person: string; trialId: string; stripId: string },
) {
  if (!line) return;
  if (line.waiting) await outbox.drop(line.id);
  else
    await outbox.add({
      ...owner,
      id: `void:${line.id}`,
      kind: "void",
      recordKind: line.kind,
      recordId: line.id,
      version: line.version,
      refused: null,
      made: Date.now(),
    });
}

/** What every new record in the outbox carries. */
export const fresh = (owner: { person: string; trialId: string; stripId: string }) => ({
  ...owner,
  id: crypto.randomUUID() as string,
  refused: null,
  made: Date.now(),
});
