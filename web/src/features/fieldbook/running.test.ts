// @vitest-environment node
import { describe, expect, it } from "vitest";
import table from "./device.json";
import {
  areaM2,
  lengthM,
  likelyMeant,
  ofThisVisit,
  plantsInHoop,
  plantsInQuadrat,
  plantsOnRows,
  running,
  spacings,
  standardYield,
} from "./running";

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
  it.each(table.load_fixtures)("yield of $net_kg kg at $moisture_pct %", (fixture) => {
    close(
      standardYield(fixture.net_kg, fixture.area_m2, fixture.moisture_pct, fixture.standard_pct) ?? undefined,
      fixture.yield_kg_per_ha,
    );
  });
  it("waits for a moisture that is asked for", () => {
    expect(standardYield(1000, 1620, null, 13.5)).toBeNull();
    expect(standardYield(1000, 1620, 120, 13.5)).toBeNull();
  });
  it.each(table.quadrat_fixtures)("plants per area of $plants plants in a quadrat", (fixture) => {
    close(plantsInQuadrat(fixture.plants, fixture.area_m2), fixture.plants_per_m2);
  });
  it.each(table.tape_fixtures)("spacing indices at $reference_m m wanted", (fixture) => {
    const got = spacings(fixture.positions_m, fixture.reference_m);
    close(got?.mean, fixture.mean_m);
    close(got?.cv, fixture.cv_frac);
    close(got?.precision, fixture.precision_frac);
    expect([got?.doubles, got?.skips, got?.singles]).toEqual([fixture.doubles, fixture.skips, fixture.singles]);
    expect(got?.histogram).toEqual(fixture.histogram);
  });
  it.each(table.slip_fixtures)("what was meant by $plants beside $others", (fixture) => {
    expect(likelyMeant(fixture.plants, fixture.others)).toBe(fixture.meant);
  });
});

describe("visits", () => {
  const now = Date.parse("2026-05-20T10:00:00Z");
  const joined = [{ first_on: "2026-05-18", last_on: "2026-05-20" }];
  it("is a day, unless a person joined days", () => {
    expect(ofThisVisit("2026-05-20T08:00:00Z", [], now)).toBe(true);
    expect(ofThisVisit("2026-05-19T12:00:00Z", [], now)).toBe(false);
    expect(ofThisVisit("2026-05-19T12:00:00Z", joined, now)).toBe(true);
    expect(ofThisVisit("2026-05-17T12:00:00Z", joined, now)).toBe(false);
    expect(ofThisVisit("2026-05-19T12:00:00Z", joined, now + 86_400_000)).toBe(false);
  });
  it("says nothing of a tape with one spacing, or none wanted", () => {
    expect(spacings([0, 0.1], 0.1)).toBeNull();
    expect(spacings([0, 0.1, 0.2], 0)).toBeNull();
    expect(spacings([1, 1, 1], 0.1)).toBeNull();
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
    for (const text of ["17 ft 5 in", "17' 5\"", "17'5"]) close(lengthM({ text, unit: "ft" }), 5.3086);
    expect(lengthM({ text: "17 ft 5 in", unit: "m" })).toBeNull();
    expect(lengthM({ text: "0 ft 0 in", unit: "ft" })).toBeNull();
    close(areaM2({ text: "2.5", unit: "ft2" }), 0.2322576);
  });
  it.each(["", "0", "-3", "12a", "1e3"])("takes no length from %j", (text) => {
    expect(lengthM({ text, unit: "m" })).toBeNull();
  });
  it("reckons a hoop of 56.419 cm as a quarter of a square metre (definition)", () => {
    expect(plantsInHoop(13, 0.56419)).toBeCloseTo(52, 3);
  });
  it("says nothing without a count", () => {
    expect(running([])).toBeNull();
  });
});
