import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import { ProfilePlot } from "./ProfilePlot";

afterEach(cleanup);
const shown = (value: number) => ({ value, text: `${value} cm` });
const treatments = [
  { id: "a", letter: "A", name: "narrow", position: 0 },
  { id: "b", letter: "B", name: "wide", position: 1 },
];
const value = (id: string, mean: number, half: number | null) => ({
  treatment_id: id,
  mean: shown(mean),
  lower: half === null ? null : shown(mean - half),
  upper: half === null ? null : shown(mean + half),
});
const profile: Schemas["ProfileOut"] = {
  points: [
    { day: "2026-05-02", values: [value("a", 12, 2), value("b", 10, 2)] },
    { day: "2026-06-01", values: [value("a", 40, 4), value("b", 33, null)] },
  ],
  level: [],
  changed: "",
  words: "",
  left_out: [],
};

it("draws each visit with its interval, days and treatments named", () => {
  const { container } = render(<ProfilePlot profile={profile} treatments={treatments} name="Height" />);
  expect(screen.getByRole("img").getAttribute("aria-label")).toBe("Height over 2 visits, 2 treatments");
  expect(container.querySelectorAll("circle")).toHaveLength(4);
  expect(container.querySelectorAll("path[stroke-width='1.5']")).toHaveLength(3);
  expect(container.textContent).toContain("2 May 2026");
  expect(container.textContent).toContain("B wide");
});
