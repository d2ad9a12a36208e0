import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import { CurvePlot, type Drawn } from "./CurvePlot";
import { ForestPlot } from "./ForestPlot";
import { InteractionPlot } from "./InteractionPlot";
import { ResidualPlots } from "./ResidualPlots";

afterEach(cleanup);
const tons = (value: number) => ({ value, text: `${value} t/ha` });
const point = (label: string, value: number) => ({
  label,
  mean: tons(value),
  lower: tons(value - 1),
  upper: tons(value + 1),
});
const interaction: Schemas["InteractionOut"] = {
  title: "Tillage by Rate",
  words: "",
  p: "0.2",
  matters: false,
  across: "Tillage",
  by: "Rate",
  lines: [
    { label: "70", points: [point("plough", 9), point("strip", 10)] },
    { label: "90", points: [point("plough", 11), point("strip", 8)] },
  ],
};

describe("interaction", () => {
  it("draws a line a level, told apart without colour, and says every mean", () => {
    const { container } = render(<InteractionPlot interaction={interaction} unit="yield, t/ha" />);
    const said = screen.getByRole("img").getAttribute("aria-label");
    expect(said).toContain("70: plough 9 t/ha, strip 10 t/ha");
    const lines = [...container.querySelectorAll("path")].filter((path) => path.getAttribute("d")?.includes("L"));
    expect(lines).toHaveLength(2);
    expect(lines[0]?.getAttribute("stroke-dasharray")).not.toBe(lines[1]?.getAttribute("stroke-dasharray"));
  });

  it("puts a larger mean further to the right", () => {
    const { container } = render(<InteractionPlot interaction={interaction} unit="" />);
    const [first, second] = [...container.querySelectorAll("circle")].map((element) =>
      Number(element.getAttribute("cx")),
    );
    expect(second).toBeGreaterThan(first ?? Number.NaN);
  });
});

const curve: Drawn = {
  level: "",
  words: "Best at 80.",
  band: [60, 80, 100].map((x) => ({ x, y: 10 - ((x - 80) / 20) ** 2, lower: 8, upper: 11 })),
  best: 80,
  stretches: [
    { from: 66, to: null, firm: false },
    { from: 72, to: 88, firm: true },
  ],
};
const curves = (points: Schemas["FreedStripOut"][]): Schemas["ResponseCurvesOut"] => ({
  problem: "",
  factor: "Seeding rate",
  x_unit: "k/ha",
  y_unit: "t/ha",
  level_pct: 90,
  money: "",
  points,
  curves: [],
  differ: "",
  answer: [],
  averaged: [],
});

describe("curve", () => {
  it("shows strips, band and where it is best; an open end reaches the edge, what is shown lies inside it", () => {
    const responseCurves = curves([{ strip: 1, x: 60, y: 9, group: "" }]);
    const { container } = render(<CurvePlot responseCurves={responseCurves} shown={[curve]} />);
    expect(container.querySelectorAll("circle")).toHaveLength(1);
    expect(container.querySelectorAll("polygon")).toHaveLength(1);
    const ends = (width: string) => {
      const path = [...container.querySelectorAll("path")].find((item) => item.getAttribute("stroke-width") === width);
      const [from = Number.NaN, to = Number.NaN] =
        (path?.getAttribute("d") ?? "").match(/[\d.]+(?= |$)|(?<=H)[\d.]+/g)?.map(Number) ?? [];
      return { from, to };
    };
    expect(ends("3").from).toBeLessThan(ends("6").from);
    expect(ends("3").to).toBeGreaterThan(ends("6").to);
    expect(screen.getByRole("img").getAttribute("aria-label")).toContain("Best at 80.");
  });

  it("draws no mark where there is no best amount", () => {
    const flat = { ...curve, best: null };
    const { container } = render(<CurvePlot responseCurves={curves([])} shown={[flat]} />);
    expect(
      [...container.querySelectorAll("path")].some((element) => element.getAttribute("stroke-width") === "6"),
    ).toBe(false);
  });
});

const difference = (value: number, words = ""): Schemas["SeriesDifferenceOut"] => ({
  name: "A",
  estimate: tons(value),
  lower: tons(value - 0.2),
  upper: tons(value + 0.2),
  call: null,
  call_words: words,
});

describe("series", () => {
  it("sets the whole apart from its years and says its call", () => {
    const rows = [
      { label: "Terrace 2024", below: "15 strips", whole: false, seriesDifference: difference(0.4) },
      { label: "Together", below: "", whole: true, seriesDifference: difference(0.3, "gain") },
    ];
    const { container } = render(<ForestPlot rows={rows} unit="t/ha" name="A" of="yield" />);
    expect(container.querySelectorAll("rect")).toHaveLength(1);
    expect(screen.getByText("gain")).toBeTruthy();
    expect(screen.getByRole("img").getAttribute("aria-label")).toBe("A: Terrace 2024 0.4 t/ha, Together 0.3 t/ha");
  });
});

describe("residuals", () => {
  it("shows every strip three ways, those above the line above it", () => {
    const points = [
      { order: 1, block: 1, position: 1, fitted: 9, residual: 0.5 },
      { order: 2, block: 1, position: 2, fitted: 10, residual: -0.5 },
    ];
    const { container } = render(<ResidualPlots points={points} unit="t/ha" />);
    expect(screen.getAllByRole("img")).toHaveLength(3);
    const heights = [...container.querySelectorAll("circle")].map((element) => Number(element.getAttribute("cy")));
    expect(heights).toHaveLength(6);
    expect(heights[0]).toBeLessThan(heights[1] ?? Number.NaN);
  });
});
