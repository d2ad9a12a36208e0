import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import { EstimatePlot, type Row } from "./EstimatePlot";
import { LimitsPlot } from "./LimitsPlot";
import { PickingPlot } from "./PickingPlot";

afterEach(cleanup);

const shown = (value: number) => ({ value, text: `${value.toFixed(2)} t/ha` });
const estimate = (value: number): Row["strips"][number]["estimate"] => ({
  value: shown(value),
  lower: shown(value * 0.8),
  upper: shown(value * 1.25),
  half_pct: 25,
  places: 2,
  pieces: 10,
  by_eye: 0,
  stressed: null,
  excellent: null,
  means_pct: -1,
  parts: [],
  working: { title: "", outcome: "", steps: [], assumption: "", table: [] },
});

it("draws every strip with its own interval, and the treatment's only where strips tell one", () => {
  const whole = (lower: number | null): Schemas["TreatmentEstimateOut"] => ({
    treatment_id: "a",
    strips: 2,
    mean: shown(10),
    lower: lower === null ? null : shown(lower),
    upper: lower === null ? null : shown(12),
    difference: null,
    difference_lower: null,
    difference_upper: null,
  });
  const row = (lower: number | null): Row => ({
    id: "a",
    letter: "A",
    name: "66 thousand/ha",
    position: 0,
    strips: [
      { order: 1, estimate: estimate(9) },
      { order: 4, estimate: estimate(11) },
    ],
    whole: whole(lower),
  });
  const { container, rerender } = render(<EstimatePlot rows={[row(8)]} unit="t/ha" />);
  expect(screen.getByRole("img").getAttribute("aria-label")).toBe("Estimates by treatment: A 10.00 t/ha");
  expect(container.querySelectorAll("circle")).toHaveLength(2);
  expect(container.querySelector("title")?.textContent).toBe("Strip 1: 9.00 t/ha (7.20 t/ha to 11.25 t/ha)");
  const bold = () => container.querySelectorAll('path[stroke-width="2.5"]').length;
  expect(bold()).toBe(2);
  rerender(<EstimatePlot rows={[row(null)]} unit="t/ha" />);
  expect(bold()).toBe(1);
});

const pair = (strip: number, off: number, more: Partial<Schemas["PairOut"]> = {}): Schemas["PairOut"] => ({
  trial_id: "t",
  trial_title: "Row width",
  strip,
  here: true,
  estimate: shown(7 * (1 + off / 100)),
  harvest: shown(7),
  middle: 7 * Math.sqrt(1 + off / 100),
  difference_pct: off,
  by_eye: false,
  person: "Ilse",
  ...more,
});

it("shows bias and limits of agreement in words, and samples by eye as crosses", () => {
  const learned: Schemas["LearnedOut"] = {
    group: "Winter wheat, heads",
    pairs: 3,
    trials: 1,
    bias_pct: 6,
    lower_pct: 1,
    upper_pct: 11,
    limit_low_pct: -9,
    limit_high_pct: 23,
    correction: 0.94,
    words: "",
  };
  const pairs = [pair(1, 4), pair(2, 9, { here: false }), pair(3, 20, { by_eye: true })];
  const { container, rerender } = render(<LimitsPlot pairs={pairs} learned={learned} unit="t/ha" />);
  const words = screen
    .getByRole("img")
    .getAttribute("aria-label")
    ?.replace(/\u00a0/g, " ");
  expect(words).toBe("Estimate against harvest on 3 strips: bias +6 %, limits of agreement \u22129 % to +23 %");
  expect(container.querySelectorAll("circle")).toHaveLength(2);
  rerender(<LimitsPlot pairs={pairs} learned={undefined} unit="t/ha" />);
  expect(screen.getByRole("img").getAttribute("aria-label")).toBe("Estimate against harvest on 3 strips");
});

it("puts what picking does beside what drawing does", () => {
  const picking = {
    drawn: [96, 100, 104],
    picked: [112, 118, 121],
    drawn_mean: 100,
    picked_mean: 117,
    piece_cv_pct: 20,
    own_cv: false,
    words: "",
  };
  const { container } = render(<PickingPlot picking={picking} />);
  expect(screen.getByRole("img").getAttribute("aria-label")).toBe(
    "Simulated samples in percent of the true yield: drawn 100, best looking 117",
  );
  expect(container.querySelectorAll("rect")).toHaveLength(6);
});
