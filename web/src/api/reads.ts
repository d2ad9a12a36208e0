/**
 * What is read from the server, listed once: under which key it is kept, whether it is taken along for the field, and whether it
 * is computed from a trial and its records. What a write makes stale, what is taken along and what the service worker keeps
 * follow from this list. No imports: the build reads it too.
 */
export type Read = {
  /** First part of the key in the cache of queries; the id of what it is of follows. */
  key: string;
  path: string;
  of: "person" | "workspace" | "trial";
  /** Taken along, so that the field book opens without a signal. */
  packed?: boolean;
  /** Computed from a trial and its records: stale after any write to the trial. */
  follows?: boolean;
  /** A record that arrives from the field book is put into this answer at once, so that it need not be asked for again. */
  grows?: boolean;
  query?: Record<string, string | number>;
};

const W = "/api/workspaces/{workspace_id}";
const T = "/api/trials/{trial_id}";

export const READS: readonly Read[] = [
  { key: "session", path: "/api/session", of: "person", packed: true },
  { key: "catalogue", path: "/api/catalogue", of: "person", packed: true },
  { key: "machines", path: `${W}/machines`, of: "workspace", packed: true },
  { key: "station", path: `${W}/station`, of: "workspace", packed: true },
  { key: "today", path: `${W}/today`, of: "workspace", packed: true, follows: true },
  { key: "trials", path: `${W}/trials`, of: "workspace", packed: true, follows: true },
  { key: "ledger", path: `${W}/ledger`, of: "workspace", follows: true },
  { key: "portfolio", path: `${W}/portfolio`, of: "workspace", follows: true },
  { key: "trial", path: T, of: "trial", packed: true, follows: true },
  { key: "stand", path: `${T}/stand`, of: "trial", packed: true, follows: true, grows: true },
  { key: "planting", path: `${T}/planting`, of: "trial", packed: true, follows: true, grows: true },
  { key: "scouting", path: `${T}/scouting`, of: "trial", packed: true, follows: true, grows: true },
  { key: "readings", path: `${T}/readings`, of: "trial", packed: true, follows: true, grows: true },
  { key: "events", path: `${T}/field-events`, of: "trial", packed: true, follows: true, grows: true },
  { key: "estimates", path: `${T}/estimates`, of: "trial", packed: true, follows: true },
  { key: "harvest", path: `${T}/harvest`, of: "trial", packed: true, follows: true },
  { key: "schedule", path: `${T}/schedule`, of: "trial", packed: true, follows: true },
  {
    key: "pass-card",
    path: `${T}/pass-card`,
    of: "trial",
    packed: true,
    query: { driving: "as_laid", reserve_pct: 0 },
  },
  { key: "seed", path: `${T}/seed`, of: "trial", follows: true },
  { key: "calibrations", path: `${T}/calibrations`, of: "trial", follows: true },
  { key: "stand-analysis", path: `${T}/stand-analysis`, of: "trial", follows: true },
  { key: "sampling", path: `${T}/sampling-plans`, of: "trial", follows: true },
  { key: "yield-logs", path: `${T}/yield-logs`, of: "trial", follows: true },
  { key: "joined-visits", path: `${T}/joined-visits`, of: "trial", follows: true },
  { key: "verdict", path: `${T}/verdict`, of: "trial", follows: true },
];

/** What a write to a trial makes stale. */
export const FOLLOWING = READS.filter((read) => read.follows);
/** What is asked for anew once records of the field book have arrived. */
export const AFTER_ARRIVAL = FOLLOWING.filter((read) => !read.grows);
export const PACKED = READS.filter((read) => read.packed);

const ID = "[0-9a-f-]{36}";
/** Addresses whose answers the service worker keeps. */
export const PACKED_ADDRESSES = new RegExp(
  `(${PACKED.map((read) => read.path.replace(/\{\w+\}/g, ID)).join("|")})(\\?.*)?$`,
);
