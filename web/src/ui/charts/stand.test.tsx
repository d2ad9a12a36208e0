import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import { StagePicture } from "../../features/trial/stand/StagePicture";
import { EmergencePlot } from "./EmergencePlot";
import { SpacingBars } from "./SpacingBars";

afterEach(cleanup);
const shown = (value: number) => ({ value, text: `${value} /m²` });
const treatments = [
  { id: "a", letter: "A", name: "220", position: 0 },
  { id: "b", letter: "B", name: "300", position: 1 },
];
const row = (id: string, points: [number, number, boolean][]) =>
  ({
    treatment_id: id,
    strips: [],
    points: points.map(([day, value, rising]) => ({
      day,
      counted: shown(value),
      fitted: rising ? shown(value) : null,
      lower: shown(value - 5),
      upper: shown(value + 5),
    })),
  }) as unknown as Schemas["EmergenceOut"];

describe("emergence", () => {
  const near = [
    row("a", [
      [8, 20, true],
      [14, 60, true],
      [22, 80, true],
      [40, 76, false],
    ]),
    row("b", [
      [8, 40, true],
      [22, 100, true],
    ]),
  ];
  it("draws every count with its interval and names each treatment", () => {
    const { container } = render(<EmergencePlot rows={near} treatments={treatments} />);
    expect(screen.getAllByRole("img")).toHaveLength(1);
    expect(container.querySelectorAll("circle")).toHaveLength(6);
    expect(screen.getByText("days from sowing")).toBeTruthy();
    expect(container.textContent).toContain("A 220");
  });
  it("gives the rise a picture of its own when years follow", () => {
    const far = [
      row("a", [
        [8, 20, true],
        [22, 80, true],
        [900, 12, false],
      ]),
    ];
    render(<EmergencePlot rows={far} treatments={treatments} />);
    expect(screen.getAllByRole("img").map((element) => element.getAttribute("aria-label"))).toEqual([
      "Stand while it came up, 1 treatments",
      "Stand over the whole time, 1 treatments",
    ]);
  });
});

describe("spacings", () => {
  it("tells doubles, singles and skips apart in words and by their place", () => {
    const { container } = render(<SpacingBars numbers={[1, 2, 5, 9, 6, 4, 3, 1]} />);
    expect(screen.getByRole("img").getAttribute("aria-label")).toBe("Spacings: 3 doubles, 24 singles, 4 skips");
    expect(container.querySelectorAll("rect")).toHaveLength(8);
  });
  it("stands with nothing in it", () => {
    render(<SpacingBars numbers={[0, 0, 0, 0, 0, 0, 0, 0]} />);
    expect(screen.getByRole("img").getAttribute("aria-label")).toBe("Spacings: 0 doubles, 0 singles, 0 skips");
  });
});

describe("the picture of what counts", () => {
  it.each(["collar", "compound", "tiller", "pair", "rosette", "fan"])(
    "draws the %s rule and says it in words",
    (drawing) => {
      const rule = { drawing, what: "leaves", counts: ["open leaves"], counts_not: ["seed leaves"] };
      const { container } = render(<StagePicture rule={rule} />);
      expect(container.querySelectorAll("path, ellipse").length).toBeGreaterThan(3);
      expect(screen.getByRole("img").getAttribute("aria-label")).toBe(
        "Counts: open leaves. Does not count: seed leaves.",
      );
    },
  );
});
