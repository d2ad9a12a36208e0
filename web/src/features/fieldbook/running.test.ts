import { describe, expect, it } from "vitest";
import table from "./device.json";
import { areaM2, lengthM, plantsInQuadrat, plantsOnRows, running } from "./running";

const close = (got: number | null | undefined, wanted: number | null) => {
  if (wanted === null) expect(got).toBeNull();
  else expect(Math.abs((got ?? Number.NaN) - wanted)).toBeLessThanOrEqual(1e-9 * Math.max(1, Math.abs(wanted)));
};

describe("the device reckons as the core does", () => {
  it.each(table.fixtures)("mean, interval and number needed of $values", (fixture) => {
    const got = running(fixture.values);
    expect(got?.n).toBe(fixture.n);
    close(got?.mean, fixture.mean);
    close(got?.halfWidth, fixture.half_width);
    close(got?.share, fixture.share);
    expect(got?.needed).toBe(fixture.needed);
    expect(got?.more).toBe(fixture.more);
  });
  it.each(table.row_fixtures)("plants per area of $plants plants on $rows rows", (fixture) => {
    close(plantsOnRows(fixture.plants, fixture.length_m, fixture.rows, fixture.row_spacing_m), fixture.plants_per_m2);
  });
  it.each(table.quadrat_fixtures)("plants per area of $plants plants in a quadrat", (fixture) => {
    close(plantsInQuadrat(fixture.plants, fixture.area_m2), fixture.plants_per_m2);
  });
});

describe("what is typed on the device", () => {
  it("keeps t as printed in tables: 6.314 at 1 and 1.833 at 9 degrees of freedom, two-sided 10 %", () => {
    // Student's t, 0.95 quantile, as in the tables of any statistics textbook (from memory).
    expect(table.t[0]).toBeCloseTo(6.314, 3);
    expect(table.t[8]).toBeCloseTo(1.833, 3);
  });
  it("reads lengths and areas in their units", () => {
    close(lengthM({ text: "17.5", unit: "ft" }), 5.334);
    close(lengthM({ text: "12,5", unit: "cm" }), 0.125);
    close(areaM2({ text: "2.5", unit: "ft2" }), 0.2322576);
  });
  it.each(["", "0", "-3", "12a", "1e3"])("takes no length from %j", (text) => {
    expect(lengthM({ text, unit: "m" })).toBeNull();
  });
  it("says nothing without a count", () => {
    expect(running([])).toBeNull();
  });
});
