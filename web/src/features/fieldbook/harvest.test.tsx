import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../api/client";
import { METRIC, US } from "../../tests/readers";
import { aStrip } from "../../tests/strips";
import { framed, LogMap } from "../../ui/charts/LogMap";
import { loadsOf, weighed } from "./HarvestBook";
import { cutFor, storeCut } from "./HowCut";
import { Keypad } from "./Keypad";
import { type Waiting, withWeighed } from "./outbox";

const typed = (text: string, unit: string) => ({ text, unit, shown: text ? `${text} ${unit}` : null });
const none = typed("", "");
const load = (id: string, gross: string, yield_: string | null): Schemas["HarvestLoadOut"] => ({
  id,
  strip_id: "strip-1",
  version: 2,
  method: "weighed",
  gross: typed(gross, "kg"),
  tare: typed("5620", "kg"),
  net: none,
  moisture: yield_ ? typed("21.4", "%") : none,
  swath_width: typed("4.5", "m"),
  length: typed("380", "m"),
  passes: none,
  pieces: none,
  test_weight: none,
  shrink: none,
  stated_yield: none,
  yield_: yield_ ? { value: 10, text: yield_ } : null,
  per_area: "",
  working: null,
  questions: [],
  recorded_at: "2026-11-23T08:00:00Z",
  clock_shift_s: null,
  recorded_by: "Tobin",
});
const strip = (stripId: string, loads: Schemas["HarvestLoadOut"][]): Schemas["StripHarvestOut"] => ({
  strip_id: stripId,
  loads,
  yield_: null,
  expected: null,
  expected_words: "",
  swath_width: none,
  length: none,
  working: null,
});
const waiting = (id: string, stripId: string, refused: string | null = null): Waiting =>
  ({
    id,
    person: "tobin",
    trialId: "t1",
    stripId,
    refused,
    made: 1,
    kind: "load",
    words: "7300 − 5620 kg, 21 %",
    kgHa: 9185,
    body: {},
  }) as unknown as Waiting;

afterEach(cleanup);
beforeEach(() => localStorage.clear());

describe("loads of a strip on harvest day", () => {
  it("lists the server's and the device's, with the yield or the moisture it waits for", () => {
    const row = strip("strip-1", [load("a", "7515", "10.33 t/ha"), load("b", "7600", null)]);
    const lines = loadsOf(row, [waiting("c", "strip-1"), waiting("d", "strip-2")], "strip-1");
    expect(lines.map((line) => [line.text, line.waiting])).toEqual([
      ["7515 − 5620 kg, 21.4 %, 10.33 t/ha", false],
      ["7600 − 5620 kg, no moisture", false],
      ["7300 − 5620 kg, 21 %", true],
    ]);
  });
  it("counts strips with a load that stands, refused ones left out", () => {
    const strips = [1, 2, 3].map((order) => ({ ...aStrip(order), id: `strip-${order}` }));
    const rows = [strip("strip-1", [load("a", "7515", "10 t/ha")]), strip("strip-2", []), strip("strip-3", [])];
    const result = weighed(rows, [waiting("c", "strip-2"), waiting("d", "strip-3", "tare over gross")], strips);
    expect([...result]).toEqual(["strip-1", "strip-2"]);
  });
  it("puts a load that arrived where the page looks for it", () => {
    const harvest = { strips: [strip("strip-1", []), strip("strip-2", [])] } as unknown as Schemas["HarvestOut"];
    const grown = withWeighed(harvest, waiting("a", "strip-1"), load("a", "7300", "9.19 t/ha"));
    expect(grown?.strips.map((stripHarvest) => stripHarvest.loads.length)).toEqual([1, 0]);
  });
  it("keeps how strips are cut, and never that a load was shared", () => {
    storeCut("t1", { ...cutFor("t1", METRIC), unit: "t", tare: "5.62", shared: true });
    expect(cutFor("t1", METRIC)).toMatchObject({ unit: "t", tare: "5.62", shared: false });
    expect(cutFor("t2", US)).toMatchObject({ unit: "lb", tare: "" });
    localStorage.setItem("cut:t3", "{broken");
    expect(cutFor("t3", METRIC).unit).toBe("kg");
  });
  it("says what the big key does", () => {
    const enter = vi.fn();
    const acts = { digit: vi.fn(), back: vi.fn(), go: vi.fn(), enter };
    render(<Keypad press={acts} recordable act="Next" />);
    fireEvent.click(screen.getByRole("button", { name: "Next" }));
    expect(enter).toHaveBeenCalledOnce();
  });
});

const picture = (across: number): Schemas["LogPictureOut"] => ({
  outlines: [
    {
      order: 1,
      letter: "A",
      ring: [
        [0, 0],
        [300, 0],
        [300, across],
        [0, across],
      ],
    },
  ],
  along: [10, 20, 30],
  across: [3, 3, 3],
  dropped: [0, 2, 3],
  tone: [0.5, 0.2, 0.9],
  drawn: 3,
  of: 900,
});

describe("map of a log", () => {
  it("keeps every reading inside the page, north side up", () => {
    const frame = framed(picture(100), 760);
    const [left, low] = frame.at(0, 0);
    const [right, high] = frame.at(300, 100);
    expect(left).toBeGreaterThanOrEqual(0);
    expect(right).toBeLessThanOrEqual(760);
    expect(high).toBeLessThan(low);
    expect(low).toBeLessThanOrEqual(frame.tall);
  });
  it("says when it is stretched across narrow strips", () => {
    expect(framed(picture(6), 760).stretched).toBe(true);
    expect(framed(picture(150), 760).stretched).toBe(false);
  });
  it("names the step it marks, and how many of the readings are drawn", () => {
    vi.stubGlobal(
      "ResizeObserver",
      class {
        observe() {}
        disconnect() {}
      },
    );
    vi.spyOn(HTMLCanvasElement.prototype, "getContext").mockReturnValue(null);
    render(<LogMap picture={picture(100)} shown={2} name="Pass starts and ends" theme="day" />);
    const map = screen.getByRole("img");
    expect(map.getAttribute("aria-label")).toContain("3 of 900 readings");
    expect(map.getAttribute("aria-label")).toContain("1 drawn that the step Pass starts and ends dropped");
    expect(screen.getByText(/dropped by Pass starts and ends/)).toBeTruthy();
  });
});
