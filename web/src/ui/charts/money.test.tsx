import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import { GainPlot } from "./GainPlot";
import { TornadoPlot } from "./TornadoPlot";

afterEach(cleanup);
const shown = (value: number) => ({ value, text: `${value} €/ha` });
const BARS: Schemas["BarOut"][] = [
  { name: "price", low: "150 €/t", high: "250 €/t", at_low: shown(-10), at_high: shown(40), turns: true },
  { name: "seed", low: "+8 €/ha", high: "+12 €/ha", at_low: shown(17), at_high: shown(13), turns: false },
];

it("draws a bar from its low to its high end on one scale, hollow where the gain turns", () => {
  const { container } = render(<TornadoPlot bars={BARS} unit="€/ha" name="A against C" />);
  const [price, seed] = [...container.querySelectorAll("rect")];
  const width = (element: Element | undefined) => Number(element?.getAttribute("width"));
  expect(width(price) / width(seed)).toBeCloseTo(50 / 4, 3);
  expect(price?.getAttribute("fill")).toBe("none");
  expect(seed?.getAttribute("fill")).toBe("currentColor");
  expect(screen.getByRole("img").getAttribute("aria-label")).toContain("price -10 €/ha to 40 €/ha");
  expect(container.textContent).toContain("hollow where it turns to a loss");
});

it("says nothing of hollow bars where none is", () => {
  const { container } = render(<TornadoPlot bars={BARS.slice(1)} unit="€/ha" name="A" />);
  expect(container.textContent).not.toContain("hollow");
});

it("draws every block from nought, losses as rings", () => {
  const risk = {
    gains: [30, -10].map((gain, place) => ({ label: `Block ${place + 1}`, gain: shown(gain) })),
    years: [],
    words: "",
  };
  const { container } = render(<GainPlot risk={risk} unit="€/ha" name="A against C" />);
  const [gain, loss] = [...container.querySelectorAll("circle")];
  const nought = Number(
    [...container.querySelectorAll("line")]
      .find((element) => element.getAttribute("stroke-width") === "1.5")
      ?.getAttribute("x1"),
  );
  const x = (element: Element | undefined) => Number(element?.getAttribute("cx")) - nought;
  expect(x(gain)).toBeGreaterThan(0);
  expect(x(loss) / x(gain)).toBeCloseTo(-1 / 3, 3);
  expect(loss?.getAttribute("fill")).toBe("var(--color-base-100)");
});
