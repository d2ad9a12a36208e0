/**
 * The field book's own arithmetic, for when there is no signal: plants per area, running mean, interval,
 * number still needed. The t table and the fixtures come from the core (`cultrix device`), which tests
 * both sides; the server's number replaces the device's as soon as it is there.
 */
import type { Typed } from "../../api/client";
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

/** A typed positive number in the canonical unit, or null when it is none. A comma may stand for the point. */
function measured(typed: Typed, factors: Record<string, number>): number | null {
  const text = typed.text.trim().replace(",", ".");
  const value = /^\d*\.?\d+$/.test(text) ? Number(text) * (factors[typed.unit] ?? Number.NaN) : Number.NaN;
  return Number.isFinite(value) && value > 0 ? value : null;
}
export const lengthM = (typed: Typed) => measured(typed, table.length_m);
export const areaM2 = (typed: Typed) => measured(typed, table.area_m2);
