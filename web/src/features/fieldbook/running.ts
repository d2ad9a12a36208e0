/**
 * The field book's own arithmetic, for when there is no signal: plants per area, running mean, interval,
 * number still needed. The t table and the fixtures come from the core (`cultrix device`), which tests
 * both sides; the server's number replaces the device's as soon as it is there.
 */
import type { Typed } from "../../api/client";
import { clockOffset } from "../../api/device";
import table from "./device.json";

export type Running = {
  n: number;
  mean: number;
  halfWidth: number | null;
  share: number | null;
  needed: number | null;
  more: number | null;
};

export const LEVEL_PCT = 100 * (1 - table.alpha);
export const WANTED_PCT = 100 * table.wanted_share;
export const MOST = table.most;
export const METRES_PER_INCH = table.length_m.in;

/** Student's interval of repeated counts and how many are wanted for the share; null without counts. */
export function running(values: number[]): Running | null {
  const n = values.length;
  if (!n) return null;
  const mean = values.reduce((sum, value) => sum + value, 0) / n;
  if (n < 2) return { n, mean, halfWidth: null, share: null, needed: null, more: null };
  const sd = Math.sqrt(values.reduce((sum, value) => sum + (value - mean) ** 2, 0) / (n - 1));
  const t = table.t[Math.min(n - 1, table.t.length) - 1] ?? Number.NaN;
  const halfWidth = (t * sd) / Math.sqrt(n);
  if (mean <= 0) return { n, mean, halfWidth, share: null, needed: null, more: null };
  const needed = neededFor(sd / mean);
  return { n, mean, halfWidth, share: halfWidth / mean, needed, more: Math.max(needed - n, 0) };
}

function neededFor(variation: number): number {
  for (let n = 2; n <= table.most; n++) {
    if (((table.t[n - 2] ?? Number.NaN) * variation) / Math.sqrt(n) <= table.wanted_share * (1 + 1e-12)) return n;
  }
  return table.most + 1;
}

export function plantsOnRows(plants: number, length_m: number, rows: number, row_spacing_m: number): number {
  return plants / (length_m * rows * row_spacing_m);
}

export function plantsInQuadrat(plants: number, area_m2: number): number {
  return plants / area_m2;
}

/** Plants per m² in a hoop so wide across. */
export function plantsInHoop(plants: number, diameter_m: number): number {
  return plantsInQuadrat(plants, (Math.PI / 4) * diameter_m ** 2);
}

/** A typed positive number in the canonical unit, or null when it is none. A comma may stand for the point. */
function measured(typed: Typed, factors: Record<string, number>): number | null {
  const text = typed.text.trim().replace(",", ".");
  const value = /^\d*\.?\d+$/.test(text) ? Number(text) * (factors[typed.unit] ?? Number.NaN) : Number.NaN;
  return Number.isFinite(value) && value > 0 ? value : null;
}
const FEET_AND_INCHES = /^(\d+)\s*(?:ft|feet|['′])\s*(\d+(?:\.\d*)?)\s*(?:in|inches|["″]|'')?$/i;

/** A length in metres; one in feet may be typed as feet and inches, as the server reads it too. */
export function lengthM(typed: Typed): number | null {
  const both = typed.unit === "ft" ? FEET_AND_INCHES.exec(typed.text.trim()) : null;
  if (!both) return measured(typed, table.length_m);
  const metres = Number(both[1]) * (table.length_m.ft ?? 0) + Number(both[2]) * (table.length_m.in ?? 0);
  return metres > 0 ? metres : null;
}
export const massKg = (typed: Typed) => measured(typed, table.mass_kg);

/** Yield in kg/ha at standard moisture; null while a moisture that is asked for is not there. */
export function standardYield(
  netKg: number,
  areaM2: number,
  moisturePct: number | null,
  standardPct: number | null,
): number | null {
  const wet = (netKg / areaM2) * 10_000;
  if (standardPct === null) return wet;
  if (moisturePct === null || !(moisturePct >= 0 && moisturePct < 100)) return null;
  return (wet * (100 - moisturePct)) / (100 - standardPct);
}

export const areaM2 = (typed: Typed) => measured(typed, table.area_m2);

export type Spacings = {
  mean: number;
  cv: number | null;
  doubles: number;
  skips: number;
  singles: number;
  precision: number | null;
  histogram: number[];
};

/** Spacing quality on the spot: doubles at most half, skips more than one and a half times the spacing wanted. */
export function spacings(positionsM: number[], referenceM: number): Spacings | null {
  const gaps = positionsM.slice(1).map((at, place) => at - (positionsM[place] ?? 0));
  const total = gaps.reduce((sum, gap) => sum + gap, 0);
  if (gaps.length < 2 || !(total > 0) || !(referenceM > 0)) return null;
  const mean = total / gaps.length;
  const shares = gaps.map((gap) => gap / referenceM);
  const singles = gaps.filter((_, place) => {
    const share = shares[place] ?? 0;
    return share > 0.5 + 1e-9 && share <= 1.5 + 1e-9;
  });
  const places = shares.map((share) => Math.min(Math.max(Math.ceil(share / BIN - 1e-9) - 1, 0), MOST_BINS - 1));
  const histogram = Array.from(
    { length: Math.max(...places, 7) + 1 },
    (_, bin) => places.filter((at) => at === bin).length,
  );
  const deviation = sdOf(singles);
  const spread = sdOf(gaps);
  return {
    mean,
    cv: spread === null ? null : spread / mean,
    doubles: shares.filter((share) => share <= 0.5 + 1e-9).length,
    skips: shares.filter((share) => share > 1.5 + 1e-9).length,
    singles: singles.length,
    precision: deviation === null ? null : deviation / referenceM,
    histogram,
  };
}

/** Width of a class of spacings in spacings wanted. */
export const BIN = 0.25;
const MOST_BINS = 16;

function sdOf(values: number[]): number | null {
  if (values.length < 2) return null;
  const mean = values.reduce((sum, value) => sum + value, 0) / values.length;
  return Math.sqrt(values.reduce((sum, value) => sum + (value - mean) ** 2, 0) / (values.length - 1));
}

/** The number that was likely meant when a digit is too many, such as 310 beside 29, 33 and 30; null when none. */
export function likelyMeant(plants: number, others: number[]): number | null {
  if (others.length < 2) return null;
  const sorted = [...others].sort((a, b) => a - b);
  const half = Math.floor(sorted.length / 2);
  const middle = sorted.length % 2 ? (sorted[half] ?? 0) : ((sorted[half - 1] ?? 0) + (sorted[half] ?? 0)) / 2;
  const far = (value: number) => middle > 0 && (value > 3 * middle || value * 3 < middle);
  const shorter = Math.floor(plants / 10);
  return far(plants) && plants > middle && shorter && !far(shorter) ? shorter : null;
}

const dayOf = (at: string | number) => new Date(at).toISOString().slice(0, 10);

/**
 * A visit is a day, or the days that a person joined. The moment of a record is by the server's clock, so that is what it is
 * compared with.
 */
export function ofThisVisit(
  recordedAt: string,
  joined: { first_on: string; last_on: string }[] = [],
  now = Date.now() + 1000 * (clockOffset() ?? 0),
) {
  const [day, today] = [dayOf(recordedAt), dayOf(now)];
  const holds = (visit: { first_on: string; last_on: string }, on: string) =>
    visit.first_on <= on && on <= visit.last_on;
  return day === today || joined.some((visit) => holds(visit, today) && holds(visit, day));
}
