import { beforeEach, describe, expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import table from "./device.json";
import { ordinal } from "./YieldBook";
import {
  type Draft,
  draftOf,
  drawnPieces,
  EMPTY,
  fullPieces,
  keepDraft,
  mayPass,
  onwardFrom,
  piecesHere,
  recordable,
  type Step,
  stepsOf,
  typed,
  typedAt,
} from "./yieldSteps";

const entry = (key: string, more: Partial<Schemas["EntryOut"]> = {}): Schemas["EntryOut"] => ({
  key,
  label: key,
  units: [],
  choices: [],
  optional: false,
  whole: false,
  ...more,
});
const method = (more: Partial<Schemas["MethodOut"]> = {}): Schemas["MethodOut"] => ({
  key: "heads",
  name: "Heads",
  piece: "head",
  pieces: "heads",
  counted: "Heads on the area",
  piece_fields: [entry("groups", { optional: true, whole: true }), entry("seeds_each")],
  place_fields: [],
  framed: false,
  formula: "",
  caution: "",
  calculator: "heads",
  ...more,
});
const CUT = method({
  key: "forage",
  counted: "",
  piece_fields: [],
  place_fields: [entry("gross", { optional: true }), entry("dm_pct")],
});

describe("pieces drawn on the device are those the core draws", () => {
  it.each(
    table.drawn_fixtures.map((fixture) => [fixture.counted, fixture.wanted, fixture.start, fixture.pieces] as const),
  )("%i counted, %i wanted, start %f", (counted, wanted, start, pieces) => {
    expect(drawnPieces(counted, wanted, start)).toEqual(pieces);
  });
});

describe("a sample is walked entry by entry", () => {
  const counted = { ...EMPTY, number: "27" };

  it("counts first, then every entry of every piece, then the place's own", () => {
    const bulbs = method({ place_fields: [entry("tare")] });
    expect(stepsOf(bulbs, EMPTY, 3).map((step) => step.kind)).toEqual(["number", "place"]);
    expect(stepsOf(bulbs, counted, 3)).toHaveLength(1 + 3 * 2 + 1);
    expect(stepsOf(CUT, EMPTY, 0).map((step) => step.kind)).toEqual(["place", "place"]);
  });

  it("measures no more pieces than stand there, but as many weighings as wanted", () => {
    expect(piecesHere(method(), { ...EMPTY, number: "2" }, 5)).toBe(2);
    expect(piecesHere(method({ key: "counted" }), { ...EMPTY, number: "2" }, 5)).toBe(5);
    expect(piecesHere(method(), EMPTY, 5)).toBe(0);
  });

  it("keeps each entry at its place and leaves the others alone", () => {
    const steps = stepsOf(method(), counted, 3);
    const third = typed(counted, steps[4] as Step, "2.1");
    expect(typedAt(third, steps[4])).toBe("2.1");
    expect(typedAt(third, steps[2])).toBe("");
    expect(third.pieces).toEqual([{}, { seeds_each: "2.1" }]);
    expect(counted.pieces).toEqual([]);
  });

  it("lets an entry pass empty only where it may be unknown", () => {
    const steps = stepsOf(method(), counted, 1);
    expect(steps.map((step) => mayPass(step, ""))).toEqual([false, true, false]);
    expect(steps.map((step) => mayPass(step, "3"))).toEqual([true, true, true]);
  });

  it("goes on past weighings that are not made, and stops where an entry is needed", () => {
    const bulbs = method({ key: "counted", piece_fields: [entry("gross"), entry("number_in", { optional: true })] });
    const withTare = { ...bulbs, place_fields: [entry("tare", { optional: true })] };
    const draft: Draft = { ...EMPTY, number: "46", pieces: [{ gross: "560", number_in: "10" }] };
    const steps = stepsOf(withTare, draft, 3);
    expect(onwardFrom(withTare, draft, steps, 0)).toBe(1);
    expect(onwardFrom(withTare, draft, steps, 3)).toBe(7); // the second weighing left empty: on to the tare
    expect(onwardFrom(withTare, draft, steps, 7)).toBeNull();
    expect(onwardFrom(withTare, { ...draft, pieces: [] }, steps, 1)).toBe("empty"); // nothing weighed yet
    expect(onwardFrom(bulbs, draft, stepsOf(bulbs, draft, 3), 3)).toBe("empty"); // nothing follows: Record as it is
    const half: Draft = { ...draft, pieces: [{ gross: "560" }, { number_in: "10" }] };
    expect(onwardFrom(withTare, half, steps, 3)).toBe("empty");
  });

  it("records what is whole and says when nothing is", () => {
    expect(recordable(method(), EMPTY)).toBe(false);
    expect(recordable(method(), counted)).toBe(false);
    const half: Draft = { ...counted, pieces: [{ groups: "16" }, { seeds_each: "30" }] };
    expect(fullPieces(method(), half)).toEqual([{ seeds_each: "30" }]);
    expect(recordable(method(), half)).toBe(true);
    expect(recordable(method(), { ...EMPTY, number: "0" })).toBe(true);
    expect(recordable(CUT, { ...EMPTY, values: { gross: "640" } })).toBe(false);
    expect(recordable(CUT, { ...EMPTY, values: { gross: "640", dm_pct: "22" } })).toBe(true);
  });
});

describe("a draft outlives the page", () => {
  beforeEach(() => localStorage.clear());

  it("comes back for its own strip and goes once recorded", () => {
    keepDraft("t", "s1", { ...EMPTY, number: "27", at: 1 });
    expect(draftOf("t", "s1").number).toBe("27");
    expect(draftOf("t", "s2")).toEqual(EMPTY);
    keepDraft("t", "s1", EMPTY);
    expect(draftOf("t", "s1")).toEqual(EMPTY);
    localStorage.setItem("yield:t:s1", "{broken");
    expect(draftOf("t", "s1")).toEqual(EMPTY);
  });
});

it("counts in words as the core does", () => {
  expect([1, 2, 3, 4, 11, 12, 13, 21, 22, 103, 111].map(ordinal)).toEqual(
    "1st 2nd 3rd 4th 11th 12th 13th 21st 22nd 103rd 111th".split(" "),
  );
});
