import { beforeEach, describe, expect, it } from "vitest";
import type { Schemas } from "../../../api/client";
import { aStrip } from "../../../tests/strips";
import {
  cellOf,
  fillColumn,
  type Load,
  NO_DRAFTS,
  rowsOf,
  type SheetRow,
  sheetBefore,
  sheetBody,
  storeDrafts,
  storedDrafts,
} from "./harvestSheet";

const typed = (text: string, unit: string) => ({ text, unit, shown: null });
const load = (id: string, stripId: string, net: string): Load => ({
  id,
  strip_id: stripId,
  version: 3,
  method: "weighed",
  gross: typed("", ""),
  tare: typed("", ""),
  net: typed(net, "kg"),
  moisture: typed("14", "%"),
  swath_width: typed("5.4", "m"),
  length: typed("300", "m"),
  passes: typed("", ""),
  test_weight: typed("", ""),
  pieces: typed("", ""),
  shrink: typed("", ""),
  per_area: "",
  stated_yield: typed("", ""),
  yield_: { value: 7, text: "7.00 t/ha" },
  working: null,
  questions: [],
  recorded_at: "2026-07-24T08:00:00Z",
  clock_shift_s: null,
  recorded_by: "Ilse",
});
const harvest = (...loads: Load[]): Schemas["HarvestOut"] => ({
  standard_moisture_pct: 13.5,
  swap: "",
  yield_unit: { label: "t/ha", factor: 1000, decimals: 2 },
  strips: ["s1", "s2", "s3"].map((id) => ({
    strip_id: id,
    yield_: null,
    expected: null,
    expected_words: "",
    swath_width: typed("", ""),
    length: typed("", ""),
    working: null,
    loads: loads.filter((harvestLoad) => harvestLoad.strip_id === id),
  })),
});
const strips = [aStrip(1), aStrip(2), aStrip(3)];
const units: Record<string, string> = { net: "kg", moisture: "%", swath_width: "m", length: "m" };
const unitOf = (column: string) => units[column] ?? "kg";

beforeEach(() => localStorage.clear());

describe("rows of the sheet", () => {
  it("has one for each load and a blank one for each strip without; lost strips have none", () => {
    const rows = rowsOf(
      [aStrip(1), aStrip(2, "a", { lost: true }), aStrip(3)],
      harvest(load("l1", "s1", "1200")),
      "weighed",
      {},
    );
    expect(rows.map((row) => row.key)).toEqual(["l1", "new:s3:0"]);
  });
  it("adds a blank row where a second load was asked for", () => {
    const rows = rowsOf(strips, harvest(load("l1", "s1", "1200")), "weighed", { s1: 1 });
    expect(rows.map((row) => row.key)).toEqual(["l1", "new:s1:0", "new:s2:0", "new:s3:0"]);
  });
});

describe("filling", () => {
  const rows = rowsOf(strips, harvest(), "weighed", {});
  it("runs a pasted column down and stops at the end", () => {
    const drafts = fillColumn(rows, 1, "net", ["1200", "1210", "1220"], "kg", NO_DRAFTS);
    expect(cellOf(rows[0] as SheetRow, "net", drafts, "kg").text).toBe("");
    expect(cellOf(rows[1] as SheetRow, "net", drafts, "kg").text).toBe("1200");
    expect(cellOf(rows[2] as SheetRow, "net", drafts, "kg").text).toBe("1210");
    expect(Object.keys(drafts.rows)).toHaveLength(2);
  });
  it("forgets a row that is empty again, and a cell typed back to what is kept", () => {
    let drafts = fillColumn(rows, 0, "net", ["12"], "kg", NO_DRAFTS);
    drafts = fillColumn(rows, 0, "net", [""], "kg", drafts);
    expect(drafts.rows).toEqual({});
    const kept = rowsOf(strips, harvest(load("l1", "s1", "1200")), "weighed", {});
    drafts = fillColumn(kept, 0, "net", ["1300"], "kg", NO_DRAFTS);
    expect(drafts.rows.l1?.id).toBe("l1");
    expect(fillColumn(kept, 0, "net", ["1200"], "kg", drafts).rows).toEqual({});
  });
  it("keeps the id of a new row from the first key on, so that sending twice is one record", () => {
    let drafts = fillColumn(rows, 0, "net", ["1"], "kg", NO_DRAFTS);
    const id = drafts.rows["new:s1:0"]?.id;
    drafts = fillColumn(rows, 0, "moisture", ["14"], "%", drafts);
    expect(drafts.rows["new:s1:0"]?.id).toBe(id);
  });
  it("keeps what was typed in another unit as it was typed", () => {
    const kept = rowsOf(strips, harvest(load("l1", "s1", "1200")), "weighed", {});
    expect(cellOf(kept[0] as SheetRow, "net", NO_DRAFTS, "lb")).toEqual({ text: "1200", unit: "kg" });
    expect(cellOf(kept[1] as SheetRow, "net", NO_DRAFTS, "lb")).toEqual({ text: "", unit: "lb" });
  });
});

describe("sending and taking back", () => {
  it("sends changed rows whole, naming the version they edit", () => {
    const rows = rowsOf(strips, harvest(load("l1", "s1", "1200")), "weighed", {});
    const drafts = fillColumn(rows, 0, "net", ["1300", "1400"], "kg", NO_DRAFTS);
    const [edited, fresh] = sheetBody(rows, "weighed", drafts, unitOf);
    expect(edited).toMatchObject({ id: "l1", strip_id: "s1", version: 3, net: { text: "1300", unit: "kg" } });
    expect(edited?.moisture).toEqual({ text: "14", unit: "%" });
    expect(fresh).toMatchObject({ strip_id: "s2", version: null, net: { text: "1400", unit: "kg" } });
  });
  it("remembers what to void and what to put back", () => {
    const rows = rowsOf(strips, harvest(load("l1", "s1", "1200")), "weighed", {});
    const drafts = fillColumn(rows, 0, "net", ["1300", "1400"], "kg", NO_DRAFTS);
    const old = sheetBefore(rows, "weighed", drafts);
    expect(old.fresh).toEqual([drafts.rows["new:s2:0"]?.id]);
    expect(old.changed[0]).toMatchObject({ id: "l1", version: 4, net: { text: "1200", unit: "kg" } });
  });
  it("keeps drafts over a reload, apart for each trial and way of weighing", () => {
    const rows = rowsOf(strips, harvest(), "weighed", {});
    const drafts = fillColumn(rows, 0, "net", ["1300"], "kg", NO_DRAFTS);
    storeDrafts("t1", "weighed", drafts);
    expect(storedDrafts("t1", "weighed")).toEqual(drafts);
    expect(storedDrafts("t1", "stated")).toEqual(NO_DRAFTS);
    expect(storedDrafts("t2", "weighed")).toEqual(NO_DRAFTS);
    storeDrafts("t1", "weighed", NO_DRAFTS);
    expect(localStorage).toHaveLength(0);
  });
  it("survives a broken note in the browser's store", () => {
    localStorage.setItem("harvest:t1:weighed", "{");
    expect(storedDrafts("t1", "weighed")).toEqual(NO_DRAFTS);
  });
});
