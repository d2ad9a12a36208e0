/**
 * Working without a signal: the page itself comes from the service worker, what the field book reads from the
 * pack that was stored beforehand, what is recorded waits in the outbox.
 */
import type { QueryClient } from "@tanstack/react-query";
import { ask, client } from "../api/client";

const PACK = "cultrix-pack";
const stamp = (trialId: string) => `pack:${trialId}`;

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
export const packedAt = (trialId: string): string | null => localStorage.getItem(stamp(trialId));

/** Read everything the field book of a trial needs, so that the service worker holds it. */
export async function takeAlong(cache: QueryClient, trialId: string, workspaceId: string): Promise<void> {
  const path = { params: { path: { trial_id: trialId } } };
  await Promise.race([navigator.serviceWorker.ready, late()]);
  const read = async <Answer>(key: readonly unknown[], call: () => Promise<Answer>) =>
    cache.setQueryData(key, await call());
  await Promise.all([
    read(["session"], () => ask(client.GET("/api/session"))),
    read(["catalogue"], () => ask(client.GET("/api/catalogue"))),
    read(["trial", trialId], () => ask(client.GET("/api/trials/{trial_id}", path))),
    read(["stand", trialId], () => ask(client.GET("/api/trials/{trial_id}/stand", path))),
    read(["planting", trialId], () => ask(client.GET("/api/trials/{trial_id}/planting", path))),
    read(["scouting", trialId], () => ask(client.GET("/api/trials/{trial_id}/scouting", path))),
    read(["estimates", trialId], () => ask(client.GET("/api/trials/{trial_id}/estimates", path))),
    read(["harvest", trialId], () => ask(client.GET("/api/trials/{trial_id}/harvest", path))),
    read(["schedule", trialId], () => ask(client.GET("/api/trials/{trial_id}/schedule", path))),
    read(["events", trialId], () => ask(client.GET("/api/trials/{trial_id}/field-events", path))),
    read(["machines", workspaceId], () =>
      ask(client.GET("/api/workspaces/{workspace_id}/machines", { params: { path: { workspace_id: workspaceId } } })),
    ),
    ask(
      client.GET("/api/trials/{trial_id}/pass-card", {
        params: { path: { trial_id: trialId }, query: { driving: "as_laid", reserve_pct: 0 } },
      }),
    ).catch(() => undefined),
    read(["today", workspaceId], () =>
      ask(client.GET("/api/workspaces/{workspace_id}/today", { params: { path: { workspace_id: workspaceId } } })),
    ),
    read(["trials", workspaceId], () =>
      ask(client.GET("/api/workspaces/{workspace_id}/trials", { params: { path: { workspace_id: workspaceId } } })),
    ),
  ]);
  localStorage.setItem(stamp(trialId), new Date().toISOString());
}

const late = () =>
  new Promise<never>((_, fail) => setTimeout(() => fail(new Error("the browser does not keep the page")), 15_000));

/** Nothing of one person's reading stays for the next one. */
export async function forgetPack() {
  for (const key of Object.keys(localStorage)) if (key.startsWith("pack:")) localStorage.removeItem(key);
  if ("caches" in window) await caches.delete(PACK);
}
