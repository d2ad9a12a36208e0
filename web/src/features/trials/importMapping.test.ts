import { describe, expect, it } from "vitest";
import { METRIC, US } from "../../tests/readers";
import { guessMapping } from "./ImportMapping";

const preview = (columns: string[], values: Record<string, string[]> = {}) => ({
  columns,
  rows: [],
  row_count: 0,
  values,
});

describe("the first guess at columns", () => {
  it("goes by the names people use", () => {
    const guess = guessMapping(
      preview(["Rep", "Seeding rate", "Grain yield"], { "Seeding rate": ["80", "120"] }),
      "x.csv",
      US,
    );
    expect(guess).toMatchObject({
      block: "Rep",
      treatment: "Seeding rate",
      response: "Grain yield",
      unit: "lb/ac",
      control: "80",
    });
  });
  it("takes what is left for the treatment and leaves the rest open", () => {
    expect(guessMapping(preview(["block", "code", "yield"]), "my_trial-2025.csv", METRIC)).toMatchObject({
      treatment: "code",
      title: "my trial 2025",
      unit: "kg/ha",
    });
    expect(guessMapping(preview(["a", "b"]), "x.csv", METRIC)).toMatchObject({ block: "", response: "" });
  });
});
