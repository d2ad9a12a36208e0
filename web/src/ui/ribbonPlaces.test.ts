// @vitest-environment node
import { describe, expect, it } from "vitest";
import { aStrip } from "../tests/strips";
import { spotsOf, stretchOf } from "./ribbonPlaces";

const placed = (order: number, place: number[]) => aStrip(order, "a", { place });

describe("the ribbon as a map", () => {
  it("draws strips in their true proportions, gaps and all", () => {
    const strips = [placed(1, [10, 0, 16, 300]), placed(2, [16, 0, 22, 300]), placed(3, [34, 0, 40, 150])];
    const spots = spotsOf(strips);
    expect(spots?.get("s1")).toEqual({ left: 0, width: 20, top: 0, height: 100 });
    expect(spots?.get("s2")?.left).toBeCloseTo(20);
    // twelve metres of obstacle are twelve metres on the ribbon, and half a length is half a height, near end down
    expect(spots?.get("s3")).toEqual({ left: 80, width: 20, top: 50, height: 50 });
  });

  it("is schematic as soon as one strip has no place", () => {
    expect(spotsOf([placed(1, [0, 0, 6, 300]), aStrip(2)])).toBeNull();
    expect(spotsOf([])).toBeNull();
  });

  it("brackets a block over all its strips", () => {
    const strips = [placed(1, [0, 0, 6, 300]), placed(2, [6, 0, 12, 300]), placed(3, [12, 0, 24, 300])];
    const spots = spotsOf(strips);
    const stretch = spots && stretchOf(strips.slice(0, 2), spots);
    expect(stretch).toEqual({ left: 0, top: 0, width: 50, height: 100 });
  });
});
