import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, it } from "vitest";
import { aStrip } from "../tests/strips";
import { Ribbon, rangeWords } from "./Ribbon";

afterEach(cleanup);
const treatments = [{ id: "a", letter: "A", position: 0, name: "3 cm" }];

it("marks a strip that went otherwise and one that is done, in shape and in words", () => {
  const strips = [aStrip(1, "a", { deviations: ["Plugged row"] }), aStrip(2, "a")];
  render(<Ribbon strips={strips} treatments={treatments} done={new Set(["s2"])} onSelect={() => undefined} />);
  expect(screen.getByRole("button", { name: /^Strip 1,.*plugged row$/ }).querySelectorAll("svg")).toHaveLength(1);
  const done = screen.getByRole("button", { name: /^Strip 2,.*, done$/ });
  expect(done.querySelectorAll("svg")).toHaveLength(0);
});

it("shows depths as a layer and says what the columns span", () => {
  const depth = (value: number) => ({ depth: { value, text: `${value} cm` } });
  const strips = [aStrip(1, "a", depth(3.1)), aStrip(2, "a", depth(4.2)), aStrip(3, "a")];
  render(<Ribbon strips={strips} treatments={treatments} layer="depth" onSelect={() => undefined} />);
  expect(screen.getByRole("button", { name: /^Strip 2,.*4\.2 cm/ })).toBeTruthy();
  expect(screen.getByRole("button", { name: /^Strip 3,.*nothing yet/ })).toBeTruthy();
  expect(rangeWords(strips, "depth")).toBe("Columns span 3.1 cm to 4.2 cm, not from zero");
});
