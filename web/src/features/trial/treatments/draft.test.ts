// @vitest-environment node
import { describe, expect, it } from "vitest";
import {
  bodyOf,
  type Draft,
  everyCombination,
  levelsOf,
  newFactor,
  newRow,
  type Units,
  withFactor,
  withoutFactor,
} from "./draft";

const units: Units = {
  money: "money/ha",
  usual: (kind) => (kind === "seeding_rate" ? "k/ha" : kind === "row_spacing" ? "cm" : ""),
  hard: (kind) => kind === "tillage",
};

function draft(): Draft {
  const start: Draft = { factors: [newFactor("tillage", units)], rows: [], costs: [] };
  const rows = ["Plough", "Strip till"].map((text, place) => ({
    ...newRow(start, units),
    id: `id ${place}`,
    levels: [{ text, unit: "" }],
    is_control: place === 0,
  }));
  return { ...start, rows };
}

describe("a draft of treatments", () => {
  it("gives every row the level of a new factor, and takes it away again", () => {
    const two = withFactor(draft(), "seeding_rate", units);
    expect(two.factors.map((factor) => factor.hard_to_change)).toEqual([true, false]);
    expect(two.rows.map((row) => row.levels[1])).toEqual([
      { text: "", unit: "k/ha" },
      { text: "", unit: "k/ha" },
    ]);
    const back = withoutFactor(two, 0);
    expect(back.rows.every((row) => row.levels.length === 1 && row.levels[0]?.unit === "k/ha")).toBe(true);
  });

  it("makes every combination once and keeps what rows there were", () => {
    const two = withFactor(draft(), "seeding_rate", units);
    two.rows = two.rows.map((row, place) => ({
      ...row,
      levels: [row.levels[0] ?? { text: "", unit: "" }, { text: ["70", "90"][place] ?? "", unit: "k/ha" }],
    }));
    const rows = everyCombination(two, units) ?? [];
    expect(rows.map((row) => row.levels.map((level) => level.text).join(" "))).toEqual([
      "Plough 70",
      "Plough 90",
      "Strip till 70",
      "Strip till 90",
    ]);
    expect(rows.map((row) => row.id)).toEqual(["id 0", null, null, "id 1"]);
    expect(rows.filter((row) => row.is_control)).toHaveLength(1);
  });

  it("makes none while a factor has no level, or there would be more than forty", () => {
    expect(everyCombination(withFactor(draft(), "seeding_rate", units), units)).toBeNull();
    const many = draft();
    many.rows = Array.from({ length: 41 }, (_, place) => ({
      ...newRow(many, units),
      levels: [{ text: `t${place}`, unit: "" }],
    }));
    expect(everyCombination(many, units)).toBeNull();
  });

  it("tells levels apart by amount and unit, whatever the case and spaces", () => {
    const item = draft();
    item.rows = [" plough", "Plough ", "PLOUGH", "Disc"].map((text) => ({
      ...newRow(item, units),
      levels: [{ text, unit: "" }],
    }));
    expect(levelsOf(item, 0)).toHaveLength(2);
  });

  it("moves the costs of later factors when one is removed", () => {
    const two = withFactor(draft(), "seeding_rate", units);
    const cost = {
      key: "c",
      level: { text: "70", unit: "k/ha" },
      kind: "product" as const,
      label: "",
      times: "1",
      each: { text: "5", unit: "money/ha" },
      basis: "area" as const,
      spread: { text: "", unit: "" },
      made_of: {},
    };
    two.costs = [
      { ...cost, factor: 0 },
      { ...cost, factor: 1 },
    ];
    expect(withoutFactor(two, 0).costs.map((costDraft) => costDraft.factor)).toEqual([0]);
  });

  it("sends named levels without a unit and amounts with theirs", () => {
    const two = withFactor(draft(), "seeding_rate", units);
    two.rows = two.rows.map((row) => ({
      ...row,
      levels: [
        { text: "Plough", unit: "cm" },
        { text: "70", unit: "k/ha" },
      ],
    }));
    expect(bodyOf(two).treatments[0]?.levels).toEqual([
      { text: "Plough", unit: "" },
      { text: "70", unit: "k/ha" },
    ]);
    expect(bodyOf(two).factors[0]).toEqual({ kind: "tillage", name: "", hard_to_change: true });
  });

  it("sends a sum with the area it is spread over, and no area where none was typed", () => {
    const item = draft();
    const cost = {
      key: "c",
      factor: 0,
      level: { text: "Plough", unit: "" },
      kind: "machinery" as const,
      label: "bar",
      times: "1",
      each: { text: "2520", unit: "money" },
      basis: "machine_year" as const,
      spread: { text: "180", unit: "ac" },
      made_of: {},
    };
    const drying = { ...cost, key: "d", basis: "yield" as const, each: { text: "4", unit: "money/cwt" } };
    item.costs = [cost, { ...drying, spread: { text: " ", unit: "ac" } }];
    const sent = bodyOf(item).costs;
    expect(sent[0]).toMatchObject({ each: { text: "2520", unit: "money" }, spread: { text: "180", unit: "ac" } });
    expect(sent[1]).toMatchObject({ each: { text: "4", unit: "money/cwt" }, spread: { text: "", unit: "" } });
  });
});
