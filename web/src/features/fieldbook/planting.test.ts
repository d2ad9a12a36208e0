import { describe, expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import { aStrip } from "../../tests/strips";
import { depthsOf, insideWords } from "./DepthBook";
import { inOrder } from "./driving";
import { type Arrived, homeOf, type Waiting, withPlanted } from "./outbox";
import { sowingOf } from "./SowBook";

type Row = Schemas["StripPlantingOut"];
const common = { person: "tobin", trialId: "t1", stripId: "s1", refused: null, made: 1 };
const record = { id: "r1", sown_at: "2026-10-02T09:11:00Z", setting: "42", version: 1 };
const row = (more: Partial<Row> = {}) =>
  ({ strip_id: "s1", records: [], depths: [], deviations: [], ...more }) as unknown as Row;
const sowing = (id: string, stripId = "s1"): Waiting =>
  ({ ...common, id, stripId, kind: "sowing", body: { sown_at: record.sown_at, setting: "42" } }) as Waiting;
const voidRecord = (recordId: string, recordKind?: string): Waiting =>
  ({ ...common, id: `void:${recordId}`, kind: "void", recordId, version: 1, recordKind }) as Waiting;

describe("what is known of the sowing of a strip", () => {
  it("shows what waits here and what the server has, each once", () => {
    const both = sowingOf(row({ records: [record] as Row["records"] }), [sowing("r1"), sowing("r2")], "s1");
    expect(both.map((line) => [line.id, line.waiting])).toEqual([
      ["r1", false],
      ["r2", true],
    ]);
    expect(both[0]?.text).toMatch(/^sown \d\d:\d\d, setting 42$/);
  });
  it("leaves out what is voided here and what waits for another strip", () => {
    const rows = row({ records: [record] as Row["records"] });
    expect(sowingOf(rows, [voidRecord("r1", "planting-record"), sowing("r2", "s2")], "s1")).toEqual([]);
  });
});

describe("depths", () => {
  it("joins the server's with the device's", () => {
    const kept = { id: "d1", depth: { text: "38", unit: "mm" }, depth_m: 0.038, version: 1 };
    const waits = {
      ...common,
      id: "d2",
      kind: "depth",
      depthM: 0.041,
      body: { depth: { text: "41", unit: "mm" } },
    } as Waiting;
    const measureds = depthsOf(row({ depths: [kept] as Row["depths"] }), [waits], "s1", "mm");
    expect(measureds.map((measured) => [measured.text, measured.depthM, measured.waiting])).toEqual([
      ["38 mm", 0.038, false],
      ["41 mm", 0.041, true],
    ]);
  });
  it("counts what lies inside the window, its ends included", () => {
    expect(insideWords([0.025, 0.05, 0.051, 0.02], [0.025, 0.05])).toBe("2 of 4 inside the window");
    expect(insideWords([0.03], [])).toBe("");
    expect(insideWords([], [0.025, 0.05])).toBe("");
  });
});

describe("the planting once a record has arrived", () => {
  const planting = { strips: [row({ records: [record] as Row["records"] }), { ...row(), strip_id: "s2" }] };
  const arrived = (waiting: Waiting, come: Arrived) =>
    withPlanted(planting as unknown as Schemas["PlantingOut"], waiting, come)?.strips;
  it("puts it on its strip in place of itself", () => {
    const again = arrived(sowing("r1"), { ...record, setting: "44" } as unknown as Arrived);
    expect(again?.[0]?.records.map((plantingRecord) => plantingRecord.setting)).toEqual(["44"]);
    expect(again?.[1]?.records).toEqual([]);
  });
  it("takes a voided one away, and leaves the planting alone for a count", () => {
    expect(arrived(voidRecord("r1", "planting-record"), null)?.[0]?.records).toEqual([]);
    expect(arrived(voidRecord("r1"), null)?.[0]?.records).toHaveLength(1);
    expect(
      [voidRecord("r1"), voidRecord("r1", "deviation"), sowing("r1")].map((item) => homeOf(item)?.join(" ")),
    ).toEqual(["stand counts", "planting deviations", "planting records"]);
  });
});

describe("driving order", () => {
  it("follows the pass card, and field order for strips it does not know", () => {
    const strips = [1, 2, 3, 4].map((order) => aStrip(order));
    expect(inOrder(strips, [3, 1]).map((strip) => strip.order)).toEqual([3, 1, 2, 4]);
    expect(inOrder(strips, []).map((strip) => strip.order)).toEqual([1, 2, 3, 4]);
  });
});
