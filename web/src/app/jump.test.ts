import { describe, expect, it } from "vitest";
import { goalsOf, trialWords } from "./Jump";
import { STAGE_KEYS } from "./shortcuts";

const trial = (id: string, title: string, strips: number): Parameters<typeof goalsOf>[0][number] => ({
  id,
  title,
  crop_name: "Winter wheat",
  season: 2026,
  series: "",
  field_name: "",
  design: "rcbd",
  treatments: [],
  letters: [],
  finished: false,
  verdict_note: "after harvest",
  next_stage: "stand",
  next_note: "Stand: 3 of 8 strips counted",
  recalculating: false,
  ribbon: { blocks: Array.from({ length: strips }, () => 1) } as never,
});
const trials = [trial("t1", "Row width", 12), trial("t2", "Seeding rate", 4)];

describe("jumping", () => {
  it("goes to where a trial stands before its single stages", () => {
    const [first] = goalsOf(trials, "row");
    expect(first?.to).toBe("/trials/t1/stand");
  });
  it("knows every stage by its name", () => {
    for (const stage of STAGE_KEYS) {
      expect(goalsOf(trials, `seeding ${stage}`).map((goal) => goal.to)).toContain(`/trials/t2/${stage}`);
    }
  });
  it("goes to a strip by its number, where there is one", () => {
    expect(goalsOf(trials, "strip 7").map((goal) => goal.to)).toEqual(["/trials/t1/stand?strip=7"]);
    expect(goalsOf(trials, "strip 99")).toEqual([]);
  });
  it("asks the server for the words that name a trial only", () => {
    expect(trialWords("Row verd strip 7")).toBe("row");
    expect(trialWords("stand")).toBe("");
  });
  it("finds nothing by a name that is not there, and few by none", () => {
    expect(goalsOf(trials, "lupin")).toEqual([]);
    expect(goalsOf(trials, "").length).toBeLessThanOrEqual(12);
  });
});
