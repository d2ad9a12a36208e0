import type { Schemas } from "../../api/client";

export type Entry = Schemas["LedgerEntryOut"];
export const FILTERS = [
  ["crop", "Crop"],
  ["factor", "Factor"],
  ["field", "Field"],
  ["year", "Year"],
] as const;
export type Filter = (typeof FILTERS)[number][0];

const OF: Record<Filter, (entry: Entry) => string[]> = {
  crop: (entry) => [entry.crop_name],
  factor: (entry) => entry.factors,
  field: (entry) => (entry.field ? [entry.field] : []),
  year: (entry) => [String(entry.season)],
};

/** What a filter offers, each once and in order. */
export function choicesOf(entries: Entry[], filter: Filter): string[] {
  return [...new Set(entries.flatMap(OF[filter]))].sort((a, b) => a.localeCompare(b));
}

/** Entries that every chosen filter lets through. */
export function fitting(entries: Entry[], chosen: URLSearchParams): Entry[] {
  return entries.filter((entry) =>
    FILTERS.every(([key]) => {
      const wanted = chosen.get(key);
      return !wanted || OF[key](entry).includes(wanted);
    }),
  );
}

/** By net return as the server ranked it, or regrouped; the rank of each stays what it is. */
export function ordered(entries: Entry[], order: string): Entry[] {
  if (order === "season") return [...entries].sort((a, b) => b.season - a.season);
  if (order === "crop") return [...entries].sort((a, b) => a.crop_name.localeCompare(b.crop_name));
  return entries;
}
