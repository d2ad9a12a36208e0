import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { aStrip } from "../tests/strips";
import { Ribbon, rangeWords } from "./Ribbon";

afterEach(cleanup);
const treatments = ["A", "B"].map((letter, position) => ({ id: letter, letter, position, name: `${letter}-level` }));
const tons = (value: number) => ({ value, text: `${value} t/ha` });
const strips = [
  aStrip(1, "A", { yield_: tons(6) }),
  aStrip(2, "B", { yield_: tons(8) }),
  aStrip(3, "B", { lost: true, reason: "hail" }),
  aStrip(4, "A", { received_id: "B", reason: "wrong gate", yield_: tons(7) }),
];

describe("the ribbon", () => {
  it("says in words what it draws: place, treatment, loss, deviation, value", () => {
    render(<Ribbon strips={strips} treatments={treatments} layer="yield_" onSelect={() => undefined} />);
    expect(screen.getByRole("button", { name: /Strip 1, Block 1, A, A-level, 6 t\/ha/ })).toBeTruthy();
    expect(screen.getByRole("button", { name: /Strip 3, .*lost: hail, nothing yet/ })).toBeTruthy();
    expect(
      screen.getByRole("button", { name: /Strip 4, Block 2, B, B-level, sown otherwise: wrong gate/ }),
    ).toBeTruthy();
  });
  it("moves with the arrows and takes one stop of the Tab key", () => {
    const select = vi.fn();
    render(<Ribbon strips={strips} treatments={treatments} selected="s2" onSelect={select} />);
    const stops = screen.getAllByRole("button").filter((element) => element.tabIndex === 0);
    expect(stops).toHaveLength(1);
    expect(stops[0]?.getAttribute("aria-pressed")).toBe("true");
    fireEvent.keyDown(stops[0] as HTMLElement, { key: "ArrowRight" });
    expect(select).toHaveBeenCalledWith(strips[2]);
    fireEvent.keyDown(screen.getAllByRole("button")[0] as HTMLElement, { key: "ArrowLeft" });
    expect(select).toHaveBeenCalledTimes(1);
  });
  it("tells a blind counter nothing of treatments", () => {
    render(<Ribbon blind strips={strips} treatments={treatments} layer="yield_" onSelect={() => undefined} />);
    for (const button of screen.getAllByRole("button")) {
      expect(`${button.textContent} ${button.title}`).not.toMatch(/[AB]-level|\b[AB]\b|wrong gate/);
    }
  });
  it("draws columns of the values, the lowest not at nothing", () => {
    const { container } = render(<Ribbon strips={strips} treatments={treatments} layer="yield_" />);
    const heights = [...container.querySelectorAll<HTMLElement>("span[style]")].map((element) =>
      Number.parseFloat(element.style.height),
    );
    expect(heights).toHaveLength(3);
    expect(heights[0]).toBeCloseTo(20);
    expect(heights[1]).toBeCloseTo(95);
    expect(heights[2]).toBeCloseTo(57.5);
  });
  it("says that columns do not start at nothing", () => {
    expect(rangeWords(strips, "yield_")).toBe("Columns span 6 t/ha to 8 t/ha, not from zero");
    expect(rangeWords(strips, "stand")).toBe("");
    expect(rangeWords(strips, "plan")).toBe("");
  });
  it("says what to do when there is no strip", () => {
    render(<Ribbon strips={[]} treatments={treatments} />);
    expect(screen.getByText(/Draw the layout/)).toBeTruthy();
  });
});
