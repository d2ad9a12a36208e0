// @vitest-environment node
import { expect, it } from "vitest";
import { ribbonOf } from "./ribbonOf";

const TRIAL = {
  id: "t",
  letters: ["A", "B"],
  treatments: ["25 cm", "12.5 cm"],
  ribbon: {
    blocks: [1, 1, 2],
    planned: [0, 1, 1],
    received: [0, 1, 0],
    flags: [0, 1, 6],
    main: [0, 0, 0],
    columns: [1, 2, 3],
    rows: [1, 1, 1],
    places: [],
    values: [6.12, null, 7],
  },
} as never;

it("gives every strip what the list says of it", () => {
  const { strips, treatments } = ribbonOf(TRIAL, "yield_");
  expect(strips.map((strip) => [strip.order, strip.block, strip.received_id, strip.lost])).toEqual([
    [1, 1, "0", false],
    [2, 1, "1", true],
    [3, 2, "0", false],
  ]);
  expect(strips.map((strip) => strip.yield_?.value)).toEqual([6.12, undefined, 7]);
  expect(strips[2]?.deviations.length).toBe(1);
  expect(strips[2]?.events.length).toBe(1);
  expect(treatments.map((treatment) => `${treatment.letter} ${treatment.name}`)).toEqual(["A 25 cm", "B 12.5 cm"]);
});

it("shows no value where only the plan is asked for", () => {
  expect(ribbonOf(TRIAL, "plan").strips.every((strip) => strip.yield_ === null)).toBe(true);
});
