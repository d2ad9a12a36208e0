import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { useStand } from "../../api/queries";
import type { Waiting } from "./outbox";
import { useOutbox } from "./useOutbox";

const store = new Map<string, Waiting>();
vi.mock("idb", () => ({
  openDB: async () => ({
    getAll: async () => [...store.values()],
    delete: async (_: string, key: string) => void store.delete(key),
  }),
}));

/** The server: the counts it has, and first answers of the stand held back until let go. */
const kept: string[] = [];
let letGo: () => void = () => undefined;
let holding: Promise<void> | null = new Promise((go) => {
  letGo = go;
});
const json = (content: unknown) =>
  new Response(JSON.stringify(content), { headers: { "content-type": "application/json" } });
vi.stubGlobal("fetch", async (request: Request) => {
  if (request.url.endsWith("/api/clock")) return json({ now: new Date().toISOString() });
  if (request.method === "PUT") {
    const { plants } = (await request.json()) as { plants: string };
    kept.push(plants);
    return json({ id: "c1", plants });
  }
  const stand = { strips: [{ strip_id: "s1", counts: kept.map((plants) => ({ id: "c1", plants })) }] };
  if (holding) await holding;
  return json(stand);
});
afterEach(cleanup);

function Counts() {
  const stand = useStand("t1");
  const { waiting } = useOutbox("tobin", "t1", "w1");
  const counts = stand.data?.strips.flatMap((strip) => strip.counts.map((count) => count.plants));
  return <p>{`${waiting.length} here, ${counts ? counts.join() || "none" : "nothing"} there`}</p>;
}

it("shows a record that arrives while the first answer, given before it, is still on its way", async () => {
  const body = { strip_id: "s1", plants: "119" };
  const common = { id: "c1", person: "tobin", workspaceId: "w1", trialId: "t1", stripId: "s1", refused: null, made: 1 };
  store.set("c1", { ...common, kind: "count", plantsPerM2: 200, body } as unknown as Waiting);
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
      <Counts />
    </QueryClientProvider>,
  );
  await vi.waitFor(() => expect(kept).toEqual(["119"]));
  await vi.waitFor(() => expect(store.size).toBe(0));
  holding = null;
  await act(async () => letGo());
  expect(await screen.findByText("0 here, 119 there")).toBeTruthy();
});
