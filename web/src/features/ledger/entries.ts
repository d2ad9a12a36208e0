import type { LedgerAsked } from "../../api/queries";

export const FILTERS = [
  ["crop", "Crop"],
  ["factor", "Factor"],
  ["field", "Field"],
  ["year", "Year"],
] as const;
export const ORDERS: [NonNullable<LedgerAsked["order"]>, string][] = [
  ["net", "net return"],
  ["season", "year, latest first"],
  ["crop", "crop"],
];

/** What an address asks of the ledger; what it does not know it leaves out. */
export function askedOf(search: URLSearchParams): LedgerAsked {
  const asked: LedgerAsked = {};
  for (const [key] of FILTERS) {
    const wanted = search.get(key);
    if (wanted) asked[key] = wanted;
  }
  const order = ORDERS.find(([key]) => key === search.get("order"))?.[0];
  return order && order !== "net" ? { ...asked, order } : asked;
}
