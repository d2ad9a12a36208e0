// @vitest-environment node
import { describe, expect, it } from "vitest";
import type { Trial } from "../../../api/client";
import { METRIC, US } from "../../../tests/readers";
import { bodyOf, planOf } from "./plan";

const trial = (asked: object) => ({ layout: { asked }, design: "", blocks: 0 }) as unknown as Trial;

describe("the form of a layout", () => {
  it("starts from what was asked last, with a new seed", () => {
    const plan = planOf(
      trial({ design: "split_plot", blocks: 3, seed: 808, guards: 1, headland: { text: "15", unit: "m" } }),
      METRIC,
    );
    expect(plan).toMatchObject({
      design: "split_plot",
      blocks: "3",
      guards: "1",
      seed: "",
      headland: { text: "15", unit: "m" },
    });
  });
  it("starts with four blocks and the reader's units where nothing was asked", () => {
    expect(planOf(trial({}), US)).toMatchObject({
      design: "rcbd",
      blocks: "4",
      strip_width: { text: "", unit: "ft" },
    });
  });
  it("sends whole numbers and says which is none", () => {
    const plan = planOf(trial({}), METRIC);
    expect(bodyOf({ ...plan, blocks: " 5 ", seed: "12" })).toMatchObject({ blocks: 5, seed: 12, guards: 0, tiers: 1 });
    expect(bodyOf({ ...plan, seed: "" })).toMatchObject({ seed: null });
    expect(bodyOf({ ...plan, blocks: "four" })).toBe("Blocks must be a whole number; got “four”.");
    expect(bodyOf({ ...plan, guards: "-1" })).toMatch("Guard strips");
  });
});
