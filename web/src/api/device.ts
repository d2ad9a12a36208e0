/**
 * What every write says of its device: who it believes to be signed in, in which workspace, and by how much its clock is off.
 * The server takes a write as that person's or not at all, and corrects moments by a clock that is known to be wrong.
 */

type Identity = { person: string; workspaceId: string };
let identity: Identity | null = null;

/** Who this page shows itself to; null before anybody is known. */
export const setIdentity = (now: Identity | null) => {
  identity = now;
};
export const identityNow = () => identity;

const CLOCK = "device-clock";
/** A clock that is off by less is as right as anybody needs; the server ignores less too. */
export const TOLERANCE_S = 120;

/** Seconds that the server's clock is ahead of this device's, as last compared; null before the first contact. */
export function clockOffset(): number | null {
  const kept = Number.parseInt(localStorage.getItem(CLOCK) ?? "", 10);
  return Number.isFinite(kept) ? kept : null;
}

/** Compare the clocks: the server's time as it answered, this device's before and after. */
export function noteServerTime(server: number, before: number, after: number) {
  if (!Number.isFinite(server)) return;
  const offset = Math.round((server - (before + after) / 2) / 1000);
  try {
    localStorage.setItem(CLOCK, String(Math.abs(offset) < 2 ? 0 : offset));
  } catch {
    // a full device still sends; it only cannot remember the difference
  }
}

/**
 * The difference to correct a record by: as it was known when the record was made, where the clock has been set since;
 * else as it is now.
 */
export function offsetFor(then: number | null | undefined, now: number | null): number {
  if (then === null || then === undefined) return now ?? 0;
  if (now === null || Math.abs(then - now) > TOLERANCE_S) return then;
  return now;
}

type Named = { person: string; workspaceId: string | undefined; clock?: number | null };

/** Headers of a write of somebody in particular, in a workspace. */
export function namedHeaders(named: Named): Record<string, string> {
  const offset = offsetFor(named.clock, clockOffset());
  const workspace = named.workspaceId ?? identity?.workspaceId;
  return {
    "X-Person": encodeURIComponent(named.person),
    ...(workspace ? { "X-Workspace": workspace } : {}),
    ...(Math.abs(offset) >= TOLERANCE_S ? { "X-Clock-Offset": String(offset) } : {}),
  };
}
