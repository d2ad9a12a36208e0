import { beforeEach, describe, expect, it, vi } from "vitest";

type Sent = { method: string; url: string; body: unknown; headers: Headers };
const store = new Map<string, { id: string }>();
let full = false;
vi.mock("idb", () => ({
  openDB: async () => ({
    getAll: async () => [...store.values()],
    put: async (_: string, value: { id: string }) => void store.set(value.id, structuredClone(value)),
    delete: async (_: string, key: string) => void store.delete(key),
    getAllKeys: async () => [...store.keys()],
    transaction: () => ({
      store: { put: async (value: { id: string }) => void store.set(value.id, value) },
      done: full ? Promise.reject(new DOMException("full", "QuotaExceededError")) : Promise.resolve(),
    }),
  }),
}));

const sent: Sent[] = [];
let behind = 0;
const clock = () =>
  new Response(JSON.stringify({ now: new Date(Date.now() + 1000 * behind).toISOString() }), {
    headers: { "content-type": "application/json" },
  });
let answer: () => Response | Promise<Response> = () => new Response("{}", { status: 201 });
vi.stubGlobal("fetch", async (request: Request) => {
  if (request.url.endsWith("/api/clock")) return clock();
  const text = await request.clone().text();
  sent.push({
    method: request.method,
    url: request.url,
    body: text.startsWith("{") ? JSON.parse(text) : text,
    headers: request.headers,
  });
  return answer();
});
const {
  dropWaiting,
  exportWaiting,
  homeOf,
  importWaiting,
  keepWaiting,
  putWaiting,
  sendWaiting,
  waitingOf,
  waitingOfOthers,
  withArrived,
  withNoted,
  withRead,
  withScouted,
} = await import("./outbox");
type Waiting = Parameters<typeof putWaiting>[0];
type Arrived = Parameters<typeof withRead>[2];

const count = (id: string, result: number, person = "tobin"): Waiting => ({
  id,
  kind: "count",
  person,
  workspaceId: "w1",
  trialId: "t1",
  stripId: "s1",
  plantsPerM2: 80,
  refused: null,
  made: result,
  body: { strip_id: "s1", method: "rows", plants: "41", recorded_at: "2026-05-01T08:00:00Z" } as Extract<
    Waiting,
    { kind: "count" }
  >["body"],
});
const fault = (status: number) =>
  new Response(JSON.stringify({ code: "x", message: `said ${status}`, field: null }), {
    status,
    headers: { "content-type": "application/json" },
  });

beforeEach(() => {
  store.clear();
  sent.length = 0;
  behind = 0;
  full = false;
  localStorage.clear();
  answer = () => new Response("{}", { status: 201, headers: { "content-type": "application/json" } });
});

describe("the outbox", () => {
  it("sends under the id made here, oldest first, and forgets what arrived", async () => {
    await putWaiting(count("b", 2));
    await putWaiting(count("a", 1));
    expect(await sendWaiting("tobin")).toEqual({ sent: 2, held: "" });
    expect(sent.map((item) => `${item.method} ${new URL(item.url).pathname}`)).toEqual([
      "PUT /api/trials/t1/stand-counts/a",
      "PUT /api/trials/t1/stand-counts/b",
    ]);
    expect(await waitingOf("tobin")).toEqual([]);
  });
  it("sends a reading of any kind to the address that the registry names, and puts it where it shows", async () => {
    const reading = {
      ...count("r", 1),
      kind: "reading",
      recordKind: "penetrometer-reading",
      words: "1.8 MPa, at 15 cm",
      body: {
        strip_id: "s1",
        resistance: { text: "1.8", unit: "MPa" },
        depth: { text: "15", unit: "cm" },
        recorded_at: "2026-05-01T08:00:00Z",
      },
    } as Waiting;
    await putWaiting(reading);
    expect(await importWaiting(await exportWaiting("tobin"))).toBe(0);
    await sendWaiting("tobin");
    expect(sent.map((item) => `${item.method} ${new URL(item.url).pathname}`)).toEqual([
      "PUT /api/trials/t1/penetrometer-readings/r",
    ]);
    expect(homeOf(reading)).toEqual(["readings", "readings"]);
    const before = { strips: [{ strip_id: "s1", readings: [] }], summaries: [] };
    expect(withRead(before, reading, { id: "r", text: "1.80 MPa" } as Arrived)?.strips[0]?.readings).toHaveLength(1);
  });
  it("keeps everything without a signal and stops at the first", async () => {
    answer = () => Promise.reject(new TypeError("no network"));
    await putWaiting(count("a", 1));
    await putWaiting(count("b", 2));
    expect(await sendWaiting("tobin")).toEqual({ sent: 0, held: "no signal" });
    expect(sent).toHaveLength(1);
    expect(await waitingOf("tobin")).toHaveLength(2);
  });
  it.each([401, 429, 500, 503])("waits on %i, which is no answer to the record", async (status) => {
    answer = () => fault(status);
    await putWaiting(count("a", 1));
    expect((await sendWaiting("tobin")).sent).toBe(0);
    expect((await waitingOf("tobin"))[0]?.refused).toBeNull();
  });
  it.each([404, 409, 422])("keeps a record refused with %i, says why, and goes on", async (status) => {
    let first = true;
    answer = () => {
      if (!first) return new Response("{}", { status: 201, headers: { "content-type": "application/json" } });
      first = false;
      return fault(status);
    };
    await putWaiting(count("a", 1));
    await putWaiting(count("b", 2));
    expect((await sendWaiting("tobin")).sent).toBe(1);
    const [kept] = await waitingOf("tobin");
    expect(kept).toMatchObject({ id: "a", refused: `said ${status}` });
    sent.length = 0;
    await sendWaiting("tobin");
    expect(sent).toHaveLength(0);
  });
  it("never sends one person's records as another's", async () => {
    await putWaiting(count("a", 1, "ilse"));
    expect((await sendWaiting("tobin")).sent).toBe(0);
    expect(sent).toHaveLength(0);
    expect(await waitingOf("ilse")).toHaveLength(1);
  });
  it("sends a void with the version it voids", async () => {
    await putWaiting({ ...count("void:a", 1), kind: "void", recordId: "a", version: 2 } as Waiting);
    await sendWaiting("tobin");
    expect(sent[0]?.url).toContain("/api/records/stand-count/a/void");
    expect(sent[0]?.body).toMatchObject({ voided: true, version: 2 });
    expect(sent[0]?.body).toHaveProperty("reason");
  });
  it("sends what a page of an earlier version kept as a strike", async () => {
    const old = { ...count("strike:a", 1), kind: "strike", recordId: "a", version: 2 };
    await putWaiting(old as never);
    expect((await waitingOf("tobin"))[0]?.kind).toBe("void");
    await sendWaiting("tobin");
    expect(sent[0]?.url).toContain("/api/records/stand-count/a/void");
    expect(store.size).toBe(0);
    expect(await importWaiting(JSON.stringify({ cultrix_outbox: 1, records: [old] }))).toBe(1);
    expect((await waitingOf("tobin"))[0]?.kind).toBe("void");
  });
  it("can forget a record", async () => {
    await putWaiting(count("a", 1));
    await dropWaiting("a");
    expect(await waitingOf("tobin")).toEqual([]);
  });
  it("keeps a count on the screen between arriving and being asked for anew", () => {
    const stand = {
      strips: [
        { strip_id: "s1", counts: [{ id: "x" }] },
        { strip_id: "s2", counts: [] },
      ],
    };
    const result = withArrived(stand as never, count("a", 1), { id: "a" } as never);
    expect(result?.strips.map((strip) => strip.counts.map((standCount) => standCount.id))).toEqual([["x", "a"], []]);
    expect(withArrived(result, count("a", 1), { id: "a" } as never)?.strips[0]?.counts).toHaveLength(2);
    const voidRecord = { ...count("void:a", 1), kind: "void", recordId: "a", version: 1 } as Waiting;
    expect(withArrived(result, voidRecord, null)?.strips[0]?.counts.map((standCount) => standCount.id)).toEqual(["x"]);
    expect(withArrived(undefined, voidRecord, null)).toBeUndefined();
  });
  it("tells of a record before it leaves the outbox", async () => {
    await putWaiting(count("a", 1));
    const seen: number[] = [];
    await sendWaiting("tobin", () => void seen.push(store.size));
    expect(seen).toEqual([1]);
    expect(store.size).toBe(0);
  });
});

describe("more than counts", () => {
  const photo = (id: string): Waiting => ({
    id,
    kind: "photo",
    person: "tobin",
    workspaceId: "w1",
    trialId: "t1",
    stripId: "s1",
    refused: null,
    made: 5,
    file: new Blob(["\u0001\u0002"], { type: "image/jpeg" }),
    body: { strip_id: "s1", caption: "low end", recorded_at: "2026-05-01T08:00:00Z" },
  });
  it("sends a photograph as a form under its own id", async () => {
    store.set("p1", photo("p1")); // a clone would not carry a Blob here
    expect(await sendWaiting("tobin")).toEqual({ sent: 1, held: "" });
    expect(sent[0]?.url).toMatch(/\/trials\/t1\/photos\/p1$/);
    expect(sent[0]?.method).toBe("POST");
  });
  it("waits when the token is lost, asks for a new one, and refuses nothing", async () => {
    await putWaiting(count("a", 1));
    answer = () =>
      new Response(JSON.stringify({ code: "csrf", message: "CSRF check Failed", field: null }), {
        status: 403,
        headers: { "content-type": "application/json" },
      });
    expect(await sendWaiting("tobin")).toEqual({ sent: 0, held: "CSRF check Failed" });
    expect(sent.map((item) => item.method)).toEqual(["PUT", "GET"]);
    expect((await waitingOf("tobin"))[0]?.refused).toBeNull();
  });
  it("refuses what a viewer may not write, and says so", async () => {
    await putWaiting(count("a", 1));
    answer = () => fault(403);
    await sendWaiting("tobin");
    expect((await waitingOf("tobin"))[0]?.refused).toBe("said 403");
  });
  it("writes everything that waits for one person into a file", async () => {
    await putWaiting(count("a", 1));
    await putWaiting(count("b", 2, "ilse"));
    const result = JSON.parse(await exportWaiting("tobin"));
    expect(result.person).toBe("tobin");
    expect(result.records.map((record: { id: string }) => record.id)).toEqual(["a"]);
  });
  it("puts an arrived rating on its strip and an arrived note into the log", () => {
    const scouting = { strips: [{ strip_id: "s1", ratings: [{ id: "r1" }] }] } as never;
    const rated = { ...photo("r2"), kind: "rating" } as unknown as Waiting;
    const grown = withScouted(scouting, rated, { id: "r2" } as never);
    expect(grown?.strips[0]?.ratings.map((rating) => rating.id)).toEqual(["r1", "r2"]);
    expect(withScouted(scouting, count("c", 1), null)).toBe(scouting);
    const note = { ...photo("e2"), kind: "event" } as unknown as Waiting;
    expect(withNoted([{ id: "e1" }] as never, note, { id: "e2" } as never)?.map((fieldEvent) => fieldEvent.id)).toEqual(
      ["e1", "e2"],
    );
    expect(withNoted(undefined, note, null)).toBeUndefined();
  });
});

describe("whose, when, and in what order", () => {
  it("sends records of older pages to the workspace of their trial", async () => {
    const { workspaceId: _, ...older } = count("a", 1);
    await putWaiting(older as Waiting);
    answer = () => new Response(JSON.stringify({ workspace_id: "w7" }), { status: 200 });
    expect((await sendWaiting("tobin")).sent).toBe(1);
    expect(sent.map((item) => item.method)).toEqual(["GET", "PUT"]);
    expect(sent[1]?.headers.get("X-Workspace")).toBe("w7");
  });
  it("names the person and the workspace that a record was made for", async () => {
    await putWaiting({ ...count("a", 1, "ünal"), workspaceId: "w1" });
    await sendWaiting("ünal");
    expect(sent[0]?.headers.get("X-Person")).toBe("%C3%BCnal");
    expect(sent[0]?.headers.get("X-Workspace")).toBe("w1");
    expect(sent[0]?.headers.has("X-Clock-Offset")).toBe(false);
  });
  it("holds all when somebody else is signed in, and refuses none", async () => {
    answer = () =>
      new Response(JSON.stringify({ code: "other_person", message: "made by tobin", field: null }), { status: 409 });
    await putWaiting(count("a", 1));
    await putWaiting(count("b", 2));
    expect(await sendWaiting("tobin")).toEqual({ sent: 0, held: "made by tobin" });
    expect(sent).toHaveLength(1);
    expect((await waitingOf("tobin")).every((item) => !item.refused)).toBe(true);
  });
  it("goes on behind a record over which the server fails, and tries that one later", async () => {
    answer = () => (sent.at(-1)?.url.endsWith("/bad") ? fault(500) : new Response("{}", { status: 201 }));
    await putWaiting(count("bad", 1));
    await putWaiting(count("b", 2));
    await putWaiting(count("c", 3));
    expect(await sendWaiting("tobin")).toEqual({ sent: 2, held: "said 500" });
    const [left] = await waitingOf("tobin");
    expect(left).toMatchObject({ id: "bad", tries: 1, refused: null, trouble: "said 500" });
    expect(left?.retryAt).toBeGreaterThan(Date.now());
    sent.length = 0;
    expect((await sendWaiting("tobin")).sent).toBe(0);
    expect(sent).toHaveLength(0); // not before its time
    await putWaiting({ ...(left as Waiting), retryAt: 0 });
    answer = () => new Response("{}", { status: 201 });
    expect((await sendWaiting("tobin")).sent).toBe(1);
  });
  it("tells by how much the clock is off, as it was when the record was made", async () => {
    behind = 3 * 86_400;
    await putWaiting(count("a", 1));
    await putWaiting({ ...count("b", 2), clock: -7200 }); // the clock was set meanwhile
    await sendWaiting("tobin");
    expect(Number(sent[0]?.headers.get("X-Clock-Offset"))).toBeCloseTo(3 * 86_400, -1);
    expect(sent[1]?.headers.get("X-Clock-Offset")).toBe("-7200");
  });
  it("keeps what the server holds beside a record in conflict", async () => {
    answer = () =>
      new Response(
        JSON.stringify({ code: "stale", message: "changed", field: null, current: { version: 3, plants: 40 } }),
        {
          status: 409,
        },
      );
    await putWaiting(count("a", 1));
    await sendWaiting("tobin");
    expect((await waitingOf("tobin"))[0]?.refusal).toEqual({
      status: 409,
      code: "stale",
      field: null,
      current: { version: 3, plants: 40 },
    });
  });
  it("tells of other people's records without showing them", async () => {
    await putWaiting(count("a", 1, "ilse"));
    await putWaiting(count("b", 2, "ilse"));
    await putWaiting(count("c", 3));
    expect(await waitingOfOthers("tobin")).toEqual([{ person: "ilse", count: 2 }]);
  });
  it("fails aloud when the device is full", async () => {
    full = true;
    await expect(keepWaiting(count("a", 1))).rejects.toThrow("full");
  });
  it("reads a saved file back in, once", async () => {
    await putWaiting(count("a", 1));
    await putWaiting(count("b", 2));
    const file = await exportWaiting("tobin");
    store.clear();
    expect(await importWaiting(file)).toBe(2);
    expect(await importWaiting(file)).toBe(0);
    expect((await waitingOf("tobin")).map((item) => item.id)).toEqual(["a", "b"]);
    for (const wrong of ["", "{}", '{"cultrix_outbox":1,"records":[{"id":"x"}]}', "[1]"])
      await expect(importWaiting(wrong)).rejects.toThrow("not a file of records");
  });
});
