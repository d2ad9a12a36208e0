import type { Strip } from "../api/client";

/** A strip of two-strip blocks with nothing recorded, for tests. */
export const aStrip = (order: number, treatment = "a", more: Partial<Strip> = {}): Strip => ({
  id: `s${order}`,
  order,
  block: Math.ceil(order / 2),
  block_name: `Block ${Math.ceil(order / 2)}`,
  treatment_id: treatment,
  received_id: treatment,
  main: 0,
  column: order,
  row: 1,
  place: null,
  area: null,
  lost: false,
  reason: "",
  width: null,
  length: null,
  counts: 0,
  stand: null,
  loads: 0,
  yield_: null,
  net_return: null,
  net_return_working: null,
  ...more,
});
