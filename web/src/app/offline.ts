/**
 * Working without a signal: the page itself comes from the service worker, what the field book reads from the
 * pack that was stored beforehand, what is recorded waits in the outbox. The pack is one person's: another person finds it
 * cleared, what is of a workspace that the person has left goes, and it does not outlive the days the workspace says.
 */
import type { QueryClient } from "@tanstack/react-query";
import { ask, client } from "../api/client";
import { PACK } from "../api/pack";
import { PACKED } from "../api/reads";

const STAMP = "pack:";
const OWNER = "pack-owner";
const DAY_MS = 86_400_000;
const stamp = (trialId: string) => `${STAMP}${trialId}`;

/** Why this device cannot keep the page for times without a signal; empty when it can. */
export function whyNotOffline(): string {
  if (!window.isSecureContext)
    return "This address is not secure (https), so the page cannot be stored: without a signal it must stay open.";
  if (!("serviceWorker" in navigator)) return "This browser cannot store the page: without a signal it must stay open.";
  return "";
}

/** Let the browser keep the page; a browser that may not is no reason to fail. */
export function keepPage() {
  if (!whyNotOffline()) void navigator.serviceWorker.register("/sw.js").catch(() => undefined);
}

/** When the pack of a trial was last stored on this device, null when it never was. */
export const packedAt = (trialId: string): string | null => localStorage.getItem(stamp(trialId))?.split(" ")[0] ?? null;

/** Read everything the field book of a trial needs, so that the service worker holds it. */
export async function takeAlong(cache: QueryClient, trialId: string, workspaceId: string): Promise<void> {
  await Promise.race([navigator.serviceWorker.ready, late()]);
  await Promise.all(
    PACKED.map(async (read) => {
      const id = read.of === "trial" ? trialId : workspaceId;
      const params = { path: { trial_id: trialId, workspace_id: workspaceId }, query: read.query };
      // addresses of the list are addresses of the contract; which of the two ids each takes, only its path says
      const answer = ask(client.GET(read.path as "/api/session", { params } as never));
      if (read.query) await answer.catch(() => undefined);
      else cache.setQueryData(read.of === "person" ? [read.key] : [read.key, id], await answer);
    }),
  );
  localStorage.setItem(stamp(trialId), `${new Date().toISOString()} ${workspaceId}`);
  void navigator.storage?.persist?.().catch(() => false);
}

const late = () =>
  new Promise<never>((_, fail) => setTimeout(() => fail(new Error("the browser does not keep the page")), 15_000));

const stamps = () => Object.keys(localStorage).filter((key) => key.startsWith(STAMP));

/** Nothing of one person's reading stays for the next one. */
export async function forgetPack() {
  for (const key of stamps()) localStorage.removeItem(key);
  localStorage.removeItem(OWNER);
  if ("caches" in window) await caches.delete(PACK);
}

/** An answer that was on its way when the last person signed out has come since: it is nobody's, and goes before the next. */
export async function forgetLateAnswers() {
  if (!localStorage.getItem(OWNER) && "caches" in window) await caches.delete(PACK);
}

/**
 * Let a pack be this person's: somebody else's is cleared, and what is too old goes. `workspaces`: ids of those the person
 * belongs to, one after the other; a pack that was made in any other is cleared as well.
 */
export async function claimPack(person: string, workspaces: string, days: number): Promise<void> {
  const [owner = "", ...before] = localStorage.getItem(OWNER)?.split(" ") ?? [];
  const left = before.some((id) => !workspaces.split(" ").includes(id));
  if (owner && (owner !== person || left)) await forgetPack();
  localStorage.setItem(OWNER, `${person} ${workspaces}`);
  await dropOlder(days);
}

/** Whether an answer is kept from before the days that packs are kept; its own date tells. */
export const isTooOld = (date: string | null, days: number, now = Date.now()) => {
  const at = Date.parse(date ?? "");
  return Number.isFinite(at) && now - at > days * DAY_MS;
};

async function dropOlder(days: number) {
  for (const key of stamps()) {
    if (isTooOld(localStorage.getItem(key)?.split(" ")[0] ?? null, days)) localStorage.removeItem(key);
  }
  if (!("caches" in window)) return;
  const pack = await caches.open(PACK);
  for (const request of await pack.keys()) {
    const kept = await pack.match(request);
    if (kept && isTooOld(kept.headers.get("Date"), days)) await pack.delete(request);
  }
}

const LOW_BYTES = 60_000_000;

/** Room left on this device for records, in bytes; null where the browser does not say. */
export async function roomLeft(): Promise<number | null> {
  const storageEstimate = await navigator.storage?.estimate?.().catch(() => null);
  return storageEstimate?.quota === undefined
    ? null
    : Math.max(storageEstimate.quota - (storageEstimate.usage ?? 0), 0);
}

/** What to say of the room left; empty while there is enough. */
export const roomWords = (left: number | null) =>
  left === null || left > LOW_BYTES
    ? ""
    : `Only ${(left / 1e6).toFixed(0)} MB are left on this device for records. Send what waits, and remove photographs or apps.`;
