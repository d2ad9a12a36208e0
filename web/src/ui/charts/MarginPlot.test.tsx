import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import { MarginPlot } from "./MarginPlot";

afterEach(cleanup);

const row = (more: Partial<Schemas["DetectionOut"]>): Schemas["DetectionOut"] => ({
  key: "treatments",
  label: "Single treatments",
  least_pct: 6,
  least: null,
  margin_pct: 3,
  margin: null,
  chance: "30 %",
  chance_value: 0.3,
  chance_equal: null,
  chance_twice: null,
  equal_value: null,
  df: 9,
  working: { title: "", outcome: "", steps: [], table: [], assumption: "" },
  ...more,
});
const result = (more: Partial<Schemas["MarginOut"]> = {}): Schemas["MarginOut"] => ({
  sentence: "",
  can_answer: false,
  blocks: 4,
  cv: "8 %",
  cv_source: "",
  expected: "",
  yield_source: "",
  rows: [row({})],
  changes: [],
  changes_note: "",
  curve: [2, 4, 6, 8].map((blocks) => ({ blocks, least_pct: 12 / Math.sqrt(blocks) })),
  settings: [],
  ...more,
});
const drawn = () => screen.getByRole("img");
const heightOf = (text: string) => Number(screen.getByText(text).getAttribute("y"));

describe("the picture of the honest margin", () => {
  it("says in words what it shows: blocks and the difference they detect", () => {
    render(<MarginPlot margin={result()} />);
    expect(drawn().getAttribute("aria-label")).toContain("with 4 blocks 6.0 percent");
    expect(screen.getByText("6.0 %")).toBeTruthy();
  });
  it("draws what matters below what can be detected when the trial cannot answer, above when it can", () => {
    render(<MarginPlot margin={result()} />);
    expect(heightOf("what matters")).toBeGreaterThan(heightOf("6.0 %"));
    cleanup();
    render(<MarginPlot margin={result({ rows: [row({ margin_pct: 9 })] })} />);
    expect(heightOf("what matters")).toBeLessThan(heightOf("6.0 %"));
  });
  it("names each margin when there are several, and follows the comparison hardest to make", () => {
    const rows = [
      row({ key: "main", label: "Tillage", least_pct: 9, margin_pct: 4 }),
      row({ key: "sub", label: "Rate" }),
    ];
    render(<MarginPlot margin={result({ rows })} />);
    expect(screen.getByText("pays: Tillage")).toBeTruthy();
    expect(screen.getByText("pays: Rate")).toBeTruthy();
    expect(drawn().getAttribute("aria-label")).toContain("9.0 percent");
  });
  it("draws nothing it has no curve for, as with a square", () => {
    const { container } = render(<MarginPlot margin={result({ curve: [] })} />);
    expect(container.innerHTML).toBe("");
  });
});
