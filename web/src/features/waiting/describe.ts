/** Records in the outbox in words: what they are, and which of their entries can be corrected. */
import { kindOf, READINGS, type Waiting } from "../fieldbook/outbox";

export const nameOf = (item: Waiting) => (item.kind === "void" ? "Voiding a record" : kindOf(item).words);

const LABELS: Record<string, string> = {
  plants: "Plants counted",
  rows: "Rows counted",
  length: "Length",
  row_spacing: "Row spacing",
  area: "Area",
  diameter: "Hoop diameter",
  gaps: "Gaps",
  doubles: "Doubles",
  gross: "Gross weight",
  tare: "Tare",
  net: "Net weight",
  moisture: "Moisture",
  swath_width: "Harvest width",
  depth: "Depth",
  setting: "Setting",
  rate: "Rate",
  speed: "Speed",
  value: "Value",
  score: "Score",
  text: "Text",
  note: "Note",
  caption: "Caption",
  happened_on: "Day",
  sown_at: "Sown at",
  number: "Number in the area",
  reference: "Spacing wanted",
  shoots: "Shoots",
  reentry_hours: "Re-entry interval, hours",
  test_weight: "Test weight",
  shrink: "Handling shrink",
  passes: "Passes",
  pieces: "Pieces",
  ...Object.fromEntries(READINGS.flatMap((kind) => kind.entries.map((entry) => [entry.name, entry.label]))),
};

export type Entry = { key: string; label: string; text: string; unit: string | null };
type Body = Record<string, unknown>;
type Typed = { text: string; unit: string };

const isTyped = (value: unknown): value is Typed =>
  typeof value === "object" && value !== null && typeof (value as Typed).text === "string" && "unit" in value;
const bodyOf = (item: Waiting): Body => (item.kind === "void" ? {} : (item.body as unknown as Body));

/** The entries of a record that somebody may have mistyped, as they were typed. */
export function entriesOf(item: Waiting): Entry[] {
  return Object.entries(bodyOf(item)).flatMap(([key, value]): Entry[] => {
    const label = LABELS[key];
    if (!label) return [];
    if (isTyped(value)) return [{ key, label, text: value.text, unit: value.unit }];
    if (typeof value === "string" || typeof value === "number")
      return [{ key, label, text: String(value), unit: null }];
    return [];
  });
}

/** The record with corrected entries, strip and moment. */
export function corrected(item: Waiting, texts: Record<string, string>, stripId: string, at: string): Waiting {
  if (item.kind === "void") return item;
  const body: Body = { ...bodyOf(item) };
  for (const [key, text] of Object.entries(texts)) {
    const now = body[key];
    if (isTyped(now)) body[key] = { ...now, text };
    else if (typeof now === "number") body[key] = Number(text);
    else body[key] = text;
  }
  if ("strip_id" in body) body.strip_id = stripId;
  body.recorded_at = at;
  return { ...item, stripId, body } as Waiting;
}

/** A record in one line: its entries as they were typed. */
export const lineOf = (item: Waiting) =>
  [
    nameOf(item),
    ...entriesOf(item).map((entry) => (entry.text ? `${entry.label} ${entry.text} ${entry.unit ?? ""}`.trim() : "")),
  ]
    .filter(Boolean)
    .join(", ");

export const momentOf = (item: Waiting): string => {
  const at = bodyOf(item).recorded_at;
  return typeof at === "string" ? at : new Date(item.made).toISOString();
};

const HIDDEN = /_id$|^(id|version|voided|void_reason|recorded_at|received_at|clock_shift_s)$|_unit$/;

/** What the server holds under the same id, entry by entry. */
export const heldOf = (current: Record<string, unknown>): [string, string][] =>
  Object.entries(current).flatMap(([key, value]) => {
    if (HIDDEN.test(key) || value === null || value === "" || typeof value === "object") return [];
    const base = key.replace(/_typed$/, "");
    const unit = current[`${base}_unit`];
    if (key !== base) return [[LABELS[base] ?? base, `${value} ${typeof unit === "string" ? unit : ""}`.trim()]];
    return LABELS[key] ? [[LABELS[key], String(value)]] : [];
  });
