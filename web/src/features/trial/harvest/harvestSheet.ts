import type { Schemas, Strip, Typed } from "../../../api/client";

export type Load = Schemas["HarvestLoadOut"];
export type Method = "weighed" | "stated";
export type Column =
  | "gross"
  | "tare"
  | "net"
  | "moisture"
  | "swath_width"
  | "length"
  | "passes"
  | "test_weight"
  | "pieces"
  | "shrink"
  | "stated_yield";
export type Cells = Partial<Record<Column, Typed>>;
/** What is typed and not yet recorded: by row, a load's id or one made here, and the cells changed. */
export type Drafts = {
  units: Partial<Record<Column, string>>;
  rows: Record<string, { id: string; cells: Cells }>;
  more: Record<string, number>;
};
export type SheetRow = { key: string; strip: Strip; load: Load | null; first: boolean; last: boolean };

export const COLUMNS: Record<Method, [Column, string, string][]> = {
  weighed: [
    ["gross", "Gross", "mass"],
    ["tare", "Tare", "mass"],
    ["net", "or net", "mass"],
    ["moisture", "Moisture", "percent"],
    ["swath_width", "Swath width", "length"],
    ["length", "Length cut", "length"],
    ["passes", "Passes", "count"],
    ["test_weight", "Test weight", "test_weight"],
    ["pieces", "Pieces", "count"],
    ["shrink", "Shrink", "percent"],
  ],
  stated: [["stated_yield", "Yield", "mass_per_area"]],
};

/** Columns that few loads need; they are shown once one of them is filled or asked for. */
export const SELDOM = new Set<Column>(["passes", "test_weight", "pieces", "shrink"]);

export const columnsOf = (method: Method, rows: SheetRow[], drafts: Drafts, all: boolean) =>
  COLUMNS[method].filter(
    ([column]) => all || !SELDOM.has(column) || rows.some((row) => cellOf(row, column, drafts, "").text),
  );

export const NO_DRAFTS: Drafts = { units: {}, rows: {}, more: {} };
const place = (trialId: string, method: Method) => `harvest:${trialId}:${method}`;

export function storedDrafts(trialId: string, method: Method): Drafts {
  try {
    return { ...NO_DRAFTS, ...JSON.parse(localStorage.getItem(place(trialId, method)) ?? "{}") };
  } catch {
    return NO_DRAFTS;
  }
}

export function storeDrafts(trialId: string, method: Method, drafts: Drafts) {
  if (Object.keys(drafts.rows).length) localStorage.setItem(place(trialId, method), JSON.stringify(drafts));
  else localStorage.removeItem(place(trialId, method));
}

/** One row a load, and a blank one for each strip without. */
export function rowsOf(
  strips: Strip[],
  harvest: Schemas["HarvestOut"],
  method: Method,
  more: Record<string, number>,
): SheetRow[] {
  const rows: SheetRow[] = [];
  for (const strip of strips) {
    if (strip.lost) continue;
    const all = harvest.strips.find((stripHarvest) => stripHarvest.strip_id === strip.id)?.loads ?? [];
    const loads = all.filter((load) => load.method === method);
    for (const load of loads)
      rows.push({ key: load.id, strip, load, first: load === loads[0], last: load === loads.at(-1) });
    const blanks = (all.length ? 0 : 1) + (more[strip.id] ?? 0);
    for (let number = 0; number < blanks; number++) {
      rows.push({
        key: `new:${strip.id}:${number}`,
        strip,
        load: null,
        first: number === 0 && !loads.length,
        last: false,
      });
    }
  }
  return rows;
}

export function cellOf(row: SheetRow, column: Column, drafts: Drafts, unit: string): Typed {
  const kept = row.load?.[column];
  return drafts.rows[row.key]?.cells[column] ?? { text: kept?.text ?? "", unit: kept?.text ? kept.unit : unit };
}

/** Put texts down a column from a row on; cells that say the same as what is kept are no drafts. */
export function fillColumn(
  rows: SheetRow[],
  from: number,
  column: Column,
  texts: string[],
  unit: string,
  drafts: Drafts,
): Drafts {
  const next = { ...drafts.rows };
  texts.forEach((text, offset) => {
    const row = rows[from + offset];
    if (!row) return;
    const kept = row.load?.[column];
    const old = next[row.key] ?? { id: row.load?.id ?? crypto.randomUUID(), cells: {} };
    const cells = { ...old.cells, [column]: { text: text.trim(), unit } };
    if (kept && kept.text === text.trim() && kept.unit === unit) delete cells[column];
    if (!row.load && !Object.values(cells).some((cell) => cell?.text)) delete next[row.key];
    else if (!Object.keys(cells).length) delete next[row.key];
    else next[row.key] = { id: old.id, cells };
  });
  return { ...drafts, rows: next };
}

export function sheetBody(rows: SheetRow[], method: Method, drafts: Drafts, unitOf: (column: Column) => string) {
  const now = new Date().toISOString();
  return rows
    .filter((row) => drafts.rows[row.key])
    .map((row) => ({
      id: drafts.rows[row.key]?.id ?? "",
      strip_id: row.strip.id,
      method,
      version: row.load?.version ?? null,
      recorded_at: row.load?.recorded_at ?? now,
      ...Object.fromEntries(COLUMNS[method].map(([column]) => [column, cellOf(row, column, drafts, unitOf(column))])),
    })) as Schemas["SheetRowIn"][];
}

/** The rows as they were before a sheet was taken: new ones to void, changed ones to put back. */
export function sheetBefore(rows: SheetRow[], method: Method, drafts: Drafts) {
  const touched = rows.filter((row) => drafts.rows[row.key]);
  return {
    fresh: touched.filter((row) => !row.load).map((row) => drafts.rows[row.key]?.id ?? ""),
    changed: touched.flatMap((row) =>
      row.load
        ? [
            {
              id: row.load.id,
              strip_id: row.strip.id,
              method,
              version: row.load.version + 1,
              recorded_at: row.load.recorded_at,
              ...Object.fromEntries(
                COLUMNS[method].map(([column]) => [
                  column,
                  { text: row.load?.[column].text ?? "", unit: row.load?.[column].unit ?? "" },
                ]),
              ),
            } as Schemas["SheetRowIn"],
          ]
        : [],
    ),
  };
}
