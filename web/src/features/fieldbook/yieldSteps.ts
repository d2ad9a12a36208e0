/** A yield sample as a walk of single entries: count the area, measure each piece drawn, then the place's own values. */
import type { Schemas } from "../../api/client";

type Method = Schemas["MethodOut"];
type Entry = Schemas["EntryOut"];
export type Draft = { number: string; pieces: Record<string, string>[]; values: Record<string, string>; at: number };
export type Step =
  | { kind: "number" }
  | { kind: "piece"; piece: number; entry: Entry }
  | { kind: "place"; entry: Entry };

export const EMPTY: Draft = { number: "", pieces: [], values: {}, at: 0 };

/**
 * Numbers of the pieces to take, counting from the peg: systematic with a random start, as the core draws them.
 * All of them where no more are there than wanted.
 */
export function drawnPieces(counted: number, wanted: number, start: number): number[] {
  if (counted <= wanted) return Array.from({ length: counted }, (_, item) => item + 1);
  return Array.from({ length: wanted }, (_, item) => Math.floor(((start + item) * counted) / wanted) + 1);
}

/** How many pieces are measured here; weighings of several bulbs are as many as wanted, whatever was counted. */
export function piecesHere(method: Method, draft: Draft, wanted: number): number {
  if (!method.counted || !draft.number) return 0;
  return method.key === "counted" ? wanted : Math.min(wanted, Number(draft.number));
}

export function stepsOf(method: Method, draft: Draft, wanted: number): Step[] {
  const pieces = Array.from({ length: piecesHere(method, draft, wanted) }, (_, item) => item);
  return [
    ...(method.counted ? [{ kind: "number" } as Step] : []),
    ...pieces.flatMap((piece) => method.piece_fields.map((entry): Step => ({ kind: "piece", piece, entry }))),
    ...method.place_fields.map((entry): Step => ({ kind: "place", entry })),
  ];
}

/** What was typed at a step. */
export function typedAt(draft: Draft, step: Step | undefined): string {
  if (!step) return "";
  if (step.kind === "number") return draft.number;
  return (step.kind === "piece" ? draft.pieces[step.piece]?.[step.entry.key] : draft.values[step.entry.key]) ?? "";
}

/** The draft with one entry changed. */
export function typed(draft: Draft, step: Step, text: string): Draft {
  if (step.kind === "number") return { ...draft, number: text };
  if (step.kind === "place") return { ...draft, values: { ...draft.values, [step.entry.key]: text } };
  const pieces = [...draft.pieces];
  while (pieces.length <= step.piece) pieces.push({});
  pieces[step.piece] = { ...pieces[step.piece], [step.entry.key]: text };
  return { ...draft, pieces };
}

/** Whether a step may be left as it is. */
export const mayPass = (step: Step, text: string) => text !== "" || (step.kind !== "number" && step.entry.optional);

/**
 * Where Next leads: the next entry; past the pieces when one is left empty and others are whole, for there may be fewer
 * weighings than planned; null when the walk is through, and the reason as text where it cannot go on.
 */
export function onwardFrom(method: Method, draft: Draft, steps: Step[], at: number): number | null | "empty" {
  const step = steps[at];
  if (!step) return null;
  if (mayPass(step, typedAt(draft, step))) return at < steps.length - 1 ? at + 1 : null;
  const untouched = step.kind === "piece" && !Object.values(draft.pieces[step.piece] ?? {}).some(Boolean);
  const past = steps.findIndex((item) => item.kind === "place");
  return untouched && past > at && fullPieces(method, draft).length ? past : "empty";
}

/** Pieces with every entry that is needed. */
export const fullPieces = (method: Method, draft: Draft) =>
  draft.pieces.filter((piece) => method.piece_fields.every((entry) => entry.optional || piece[entry.key]));

/** Whether what is typed can be recorded: something counted and measured, and the place's own needed values. */
export function recordable(method: Method, draft: Draft): boolean {
  if (!method.place_fields.every((entry) => entry.optional || draft.values[entry.key])) return false;
  if (!method.counted) return Boolean(draft.values.gross || draft.values.companion_gross);
  return draft.number !== "" && (Number(draft.number) === 0 || fullPieces(method, draft).length > 0);
}

/** The draft of a strip, kept on the device until it is recorded. */
const place = (trialId: string, stripId: string) => `yield:${trialId}:${stripId}`;
export function draftOf(trialId: string, stripId: string): Draft {
  try {
    return { ...EMPTY, ...(JSON.parse(localStorage.getItem(place(trialId, stripId)) ?? "{}") as Partial<Draft>) };
  } catch {
    return EMPTY;
  }
}
export function keepDraft(trialId: string, stripId: string, draft: Draft) {
  if (draft === EMPTY) localStorage.removeItem(place(trialId, stripId));
  else localStorage.setItem(place(trialId, stripId), JSON.stringify(draft));
}
