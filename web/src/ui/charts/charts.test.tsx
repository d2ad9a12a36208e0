import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import { scaleOver } from "./axis";
import { DifferencePlot } from "./DifferencePlot";
import { MeansPlot } from "./MeansPlot";

afterEach(cleanup);
const tons = (value: number) => ({ value, text: `${value} t/ha` });
const working = { title: "", outcome: "", steps: [], table: [], assumption: "" };
const mean = (letter: string, value: number, half: number | null, raw: number[]): Schemas["MeanOut"] => ({
  treatment_id: letter,
  letter,
  name: `${letter}-level`,
  is_control: letter === "B",
  n: raw.length,
  mean: tons(value),
  se: null,
  lower: half === null ? null : tons(value - half),
  upper: half === null ? null : tons(value + half),
  letters: half === null ? null : "a",
  working,
  raw: raw.map((item, place) => ({ strip_id: `${letter}${place}`, order: place + 1, block: 1, value: tons(item) })),
});
const difference: Schemas["DifferenceOut"] = {
  key: "A/B",
  treatment_id: "A",
  factor: "",
  within: "",
  letter: "A",
  name: "A-level",
  against: "B",
  estimate: tons(0.3),
  se: null,
  lower: tons(-0.1),
  upper: tons(0.7),
  p: null,
  p_adjusted: null,
  break_even: null,
  margin: tons(0.2),
  call: "cannot_tell_yet",
  call_words: "not clear yet",
  sentence: "Not clear yet whether A differs from B.",
  chance: null,
  chances: "",
  settle: "",
  working,
};
const analysis = (
  means: Schemas["MeanOut"][],
  differences: Schemas["DifferenceOut"][] = [],
): Schemas["AnalysisOut"] => ({
  response: "yield",
  unit: "t/ha",
  sentence: "",
  factored: false,
  formula: "",
  tables: [],
  interactions: [],
  strata: [],
  components: [],
  precision: [],
  polynomials: [],
  residuals: [],
  second_looks: [],
  means,
  differences,
  anova: [],
  anova_unit: "",
  method: "",
  letters_note: "",
  checks: [],
  warnings: [],
  cv_pct: null,
  sed: null,
  lsd: null,
  level_pct: 90,
  caption: "Differences with 90 % intervals",
});
const x = (element: Element | null | undefined, name: string) => Number(element?.getAttribute(name));

describe("means", () => {
  const drawn = analysis([mean("A", 7.5, 0.2, [7.2, 7.8]), mean("B", 7.1, 0.2, [7.0, 7.2])]);
  it("draws every strip behind its mean, the interval round it, and the axis with its unit", () => {
    const { container } = render(<MeansPlot analysis={drawn} positions={new Map([["A", 0]])} />);
    expect(container.querySelectorAll("circle")).toHaveLength(4);
    expect(container.querySelectorAll("path")).toHaveLength(2);
    expect(screen.getByText("yield, t/ha")).toBeTruthy();
    const boxes = container.querySelectorAll("rect");
    expect(x(boxes[0], "x")).toBeGreaterThan(x(boxes[1], "x"));
    const interval = container.querySelector("path")?.getAttribute("d") ?? "";
    const [left = 0, right = 0] = [...interval.matchAll(/[MH](-?[\d.]+)/g)].map((regExpExecArray) =>
      Number(regExpExecArray[1]),
    );
    const middle = x(boxes[0], "x") + 4;
    expect(middle - left).toBeCloseTo(right - middle, 6);
    for (const ring of [...container.querySelectorAll("circle")].slice(0, 2)) {
      expect(x(ring, "cy")).toBe(x(boxes[0], "y") + 9);
    }
  });
  it("draws no interval where there is none", () => {
    const { container } = render(
      <MeansPlot analysis={analysis([mean("A", 7.5, null, [7.5])])} positions={new Map()} />,
    );
    expect(container.querySelectorAll("path")).toHaveLength(0);
  });
  it("is told in words to who cannot see it", () => {
    render(<MeansPlot analysis={drawn} positions={new Map()} />);
    expect(screen.getByRole("img", { name: /A 7\.5 t\/ha, B 7\.1 t\/ha/ })).toBeTruthy();
  });
});

describe("differences", () => {
  it("draws the band that does not matter evenly about nothing, and the call in words", () => {
    const { container } = render(<DifferencePlot analysis={analysis([], [difference])} />);
    const band = container.querySelector("rect");
    const zero = [...container.querySelectorAll("line")].find(
      (element) => element.getAttribute("stroke-width") === "1.5",
    );
    const centre = x(band, "x") + x(band, "width") / 2;
    expect(centre).toBeCloseTo(x(zero, "x1"), 6);
    expect(screen.getByText("not clear yet")).toBeTruthy();
  });
  it("draws nothing without a comparison", () => {
    const { container } = render(<DifferencePlot analysis={analysis([])} />);
    expect(container.innerHTML).toBe("");
  });
});

describe("the scale", () => {
  it("holds every value, also when all are the same", () => {
    for (const values of [
      [1, 2, 3],
      [5, 5],
      [-0.2, 0.7],
      [0, 0],
    ]) {
      const [low = 0, high = 0] = scaleOver(values).domain();
      expect(low).toBeLessThan(Math.min(...values) + 1e-12);
      expect(high).toBeGreaterThan(Math.max(...values) - 1e-12);
      expect(high).toBeGreaterThan(low);
    }
  });
});
