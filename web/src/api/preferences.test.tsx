import { QueryClient, QueryClientProvider, useQuery } from "@tanstack/react-query";
import { act, cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { ask, client } from "./client";
import { usePreferences, useSession } from "./queries";

/** The server: what it knows of the person when a request arrives, and answers held back until let go. */
let system = "us";
const held: (() => void)[] = [];
let holding = false;
const json = (content: unknown) =>
  new Response(JSON.stringify(content), { status: 200, headers: { "content-type": "application/json" } });

vi.stubGlobal("fetch", async (request: Request) => {
  if (request.method === "PATCH") system = ((await request.json()) as { unit_system: string }).unit_system;
  const known = system;
  const isBench = request.url.endsWith("/bench");
  if (isBench && holding) await new Promise<void>((go) => held.push(go));
  return json(isBench ? [{ key: known }] : { person: { username: "ilse", unit_system: known } });
});
afterEach(cleanup);

function Units() {
  const session = useSession();
  const preferences = usePreferences();
  const now = session.data?.person?.unit_system ?? "";
  const bench = useQuery({
    queryKey: ["bench", now],
    enabled: now !== "",
    queryFn: () => ask(client.GET("/api/workspaces/{workspace_id}/bench", { params: { path: { workspace_id: "w" } } })),
  });
  return (
    <button type="button" onClick={() => preferences.mutate({ unit_system: "metric" })}>
      {now} {bench.data?.[0]?.key ?? "nothing"}
    </button>
  );
}

it("never keeps an answer in the old units that was on its way when the units changed", async () => {
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
      <Units />
    </QueryClientProvider>,
  );
  await screen.findByText("us us");
  // the question under the new key leaves before the server has heard of the change, and is answered after it
  holding = true;
  const patch = globalThis.fetch;
  vi.stubGlobal("fetch", async (request: Request) => {
    if (request.method === "PATCH") await vi.waitFor(() => expect(held.length).toBeGreaterThan(0));
    return patch(request);
  });
  await act(async () => screen.getByRole("button").click());
  await vi.waitFor(() => expect(system).toBe("metric"));
  holding = false;
  await act(async () => {
    for (const go of held) go();
  });
  expect(await screen.findByText("metric metric")).toBeTruthy();
});
