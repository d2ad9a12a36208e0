import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, it } from "vitest";
import type { Schemas } from "../../../api/client";
import { Machine } from "./Openers";

afterEach(cleanup);
const opener = (number: number, value: number, apart = false) => ({
  opener: number,
  strips: 4,
  mean: `${value} mm`,
  value,
  off: "1 mm more",
  luck: "0.4000",
  apart,
});
const look: Schemas["OpenersOut"] = {
  what: "depth",
  name: "Depth",
  openers: [opener(1, 38), opener(2, 39), opener(4, 20, true)],
  words: "",
  problem: "",
};

it("draws each opener in its place on the toolbar, those that stand apart filled", () => {
  const { container } = render(<Machine look={look} />);
  expect(screen.getByRole("img").getAttribute("aria-label")).toContain("3 rows of the machine");
  const openers = [...container.querySelectorAll("path")];
  expect(openers.map((path) => path.getAttribute("fill"))).toEqual(["none", "none", "var(--color-accent)"]);
  const places = openers.map((path) => Number(/M([\d.]+)/.exec(path.getAttribute("d") ?? "")?.[1]));
  expect((places[2] ?? 0) - (places[1] ?? 0)).toBeCloseTo(2 * ((places[1] ?? 0) - (places[0] ?? 0)));
});
