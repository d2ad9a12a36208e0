// @vitest-environment node
import { expect, it } from "vitest";
import { choicesOf, type Entry, fitting, ordered } from "./entries";

const entry = (part: Partial<Entry>): Entry =>
  ({ key: "k", crop_name: "Maize", season: 2025, field: "Upper", factors: ["Tillage"], rank: null, ...part }) as Entry;
const ENTRIES = [
  entry({ key: "a", rank: 1, season: 2024, factors: ["Tillage", "Seeding rate"] }),
  entry({ key: "b", rank: 2, crop_name: "Sorghum", field: "" }),
  entry({ key: "c", rank: 3 }),
];

it("offers each choice once and nothing for what is not known", () => {
  expect(choicesOf(ENTRIES, "factor")).toEqual(["Seeding rate", "Tillage"]);
  expect(choicesOf(ENTRIES, "field")).toEqual(["Upper"]);
  expect(choicesOf(ENTRIES, "year")).toEqual(["2024", "2025"]);
});

it("lets through what every filter does", () => {
  const keys = (search: string) => fitting(ENTRIES, new URLSearchParams(search)).map((one) => one.key);
  expect(keys("")).toEqual(["a", "b", "c"]);
  expect(keys("factor=Seeding rate")).toEqual(["a"]);
  expect(keys("crop=Maize&year=2025")).toEqual(["c"]);
  expect(keys("crop=Barley")).toEqual([]);
});

it("regroups without touching the ranks", () => {
  expect(ordered(ENTRIES, "season").map((one) => [one.key, one.rank])).toEqual([
    ["b", 2],
    ["c", 3],
    ["a", 1],
  ]);
  expect(ordered(ENTRIES, "net")).toBe(ENTRIES);
});
