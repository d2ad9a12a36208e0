import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, render } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Trial } from "../../api/client";
import { SavingProvider, useSaving } from "../../app/saving";
import { useTrialWrites, type Writes } from "./writes";

type Body = { version: number; [key: string]: unknown };
let server: { version: number; guess: string; price: { text: string; unit: string; shown: null } };
const bodies: Body[] = [];
let refusal: { status: number; code: string } | null = null;

vi.stubGlobal("fetch", async (request: Request) => {
  const body = (await request.json()) as Body;
  bodies.push(body);
  const json = (status: number, content: unknown) =>
    new Response(JSON.stringify(content), { status, headers: { "content-type": "application/json" } });
  if (refusal) return json(refusal.status, { code: refusal.code, message: `refused: ${refusal.code}`, field: null });
  if (body.version !== server.version) return json(409, { code: "stale", message: "changed elsewhere", field: null });
  await Promise.resolve();
  server = { ...server, ...(body as object), version: server.version + 1 };
  return json(200, server);
});

let writes: Writes;
let saving: ReturnType<typeof useSaving>;
function Probe({ trial }: { trial: Trial }) {
  writes = useTrialWrites(trial);
  saving = useSaving();
  return null;
}
function show() {
  render(
    <QueryClientProvider client={new QueryClient()}>
      <SavingProvider>
        <Probe trial={{ id: "t1", ...server } as unknown as Trial} />
      </SavingProvider>
    </QueryClientProvider>,
  );
}

beforeEach(() => {
  server = { version: 4, guess: "old", price: { text: "200", unit: "money/t", shown: null } };
  bodies.length = 0;
  refusal = null;
});
afterEach(cleanup);

describe("writing to a trial", () => {
  it("sends one change after the other, each with the version the one before left", async () => {
    show();
    await act(async () => {
      await Promise.all([
        writes.edit({ guess: "a" }, "guess"),
        writes.edit({ question: "b" }, "question"),
        writes.edit({ series: "c" }, "series"),
      ]);
    });
    expect(bodies.map((body) => body.version)).toEqual([4, 5, 6]);
    expect(writes.problems).toEqual({});
  });
  it("takes a change back to what was there, as it was typed", async () => {
    show();
    await act(() => writes.edit({ price: { text: "5,60", unit: "money/bu" } }, "price"));
    await act(() => saving.takeBack());
    expect(bodies.at(-1)).toEqual({ version: 5, amendment: "", price: { text: "200", unit: "money/t" } });
  });
  it("puts the server's words by the field that was changed, and clears them when it is mended", async () => {
    show();
    refusal = { status: 422, code: "not_a_number" };
    await act(() => writes.edit({ price: { text: "x", unit: "money/t" } }, "price"));
    expect(writes.problems).toEqual({ price: "refused: not_a_number" });
    expect(saving.undo).toBeNull();
    refusal = null;
    await act(() => writes.edit({ price: { text: "210", unit: "money/t" } }, "price"));
    expect(writes.problems).toEqual({});
  });
  it("goes on after a refusal with the version that stands", async () => {
    show();
    refusal = { status: 422, code: "too_large" };
    await act(() => writes.edit({ guess: "x".repeat(900) }, "guess"));
    refusal = null;
    await act(() => writes.edit({ guess: "short" }, "guess"));
    expect(bodies.map((body) => body.version)).toEqual([4, 4]);
    expect(server.guess).toBe("short");
  });
  it("says so when the trial was changed elsewhere", async () => {
    show();
    server.version = 9;
    await act(() => writes.edit({ guess: "mine" }, "guess"));
    expect(writes.problems.guess).toBe("changed elsewhere");
    expect(server.guess).toBe("old");
  });
  it("asks for the reason of an amendment, and sends the change again with it", async () => {
    show();
    refusal = { status: 409, code: "frozen" };
    await act(() => writes.edit({ price: { text: "250", unit: "money/t" } }, "price"));
    expect(writes.frozen?.message).toBe("refused: frozen");
    expect(server.price.text).toBe("200");
    refusal = null;
    await act(async () => writes.frozen?.settle("contract signed"));
    expect(bodies.at(-1)).toEqual({
      version: 4,
      amendment: "contract signed",
      price: { text: "250", unit: "money/t" },
    });
    expect(writes.frozen).toBeNull();
    expect(writes.problems).toEqual({});
    expect(saving.undo, "an amendment is not taken back silently").toBeNull();
  });
  it("leaves what was frozen when no reason is given", async () => {
    show();
    refusal = { status: 409, code: "frozen" };
    await act(() => writes.edit({ guess: "other" }, "guess"));
    await act(async () => writes.frozen?.settle(null));
    expect(bodies).toHaveLength(1);
    expect(writes.frozen).toBeNull();
    expect(server.guess).toBe("old");
  });
});
