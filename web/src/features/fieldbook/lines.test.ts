import { describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../api/client";
import { aStrip } from "../../tests/strips";
import { listOf } from "./CountBook";
import { fresh, linesOf, takeBack, voidedIn } from "./lines";
import { inWalk, nextPlace } from "./NextPlace";
import type { Waiting } from "./outbox";
import { runWords } from "./TapeBook";
import type { useOutbox } from "./useOutbox";

const owner = { person: "tobin", trialId: "t1", stripId: "s1" };
const rating = (id: string, score: number, stripId = "s1", refused: string | null = null): Waiting =>
  ({ ...owner, id, stripId, refused, made: 1, kind: "rating", body: { strip_id: stripId, score } }) as Waiting;
const voidRecord = (recordId: string): Waiting =>
  ({ ...owner, id: `void:${recordId}`, refused: null, made: 2, kind: "void", recordId, version: 1 }) as Waiting;
const read = (kept: { id: string; version: number; score: number }[], waiting: Waiting[]) =>
  linesOf({
    waitingKind: "rating",
    recordKind: "rating",
    stripId: "s1",
    kept,
    waiting,
    words: (item) => `${item.score} of 9`,
    waitingWords: (ratingWaiting) => `${ratingWaiting.body.score} of 9`,
  });

describe("records of a strip, here and on the server", () => {
  it("lists the server's first, each record once, other strips and kinds left out", () => {
    const lines = read(
      [{ id: "a", version: 3, score: 5 }],
      [rating("a", 5), rating("b", 7), rating("c", 2, "s2"), { ...rating("d", 1), kind: "dug" } as unknown as Waiting],
    );
    expect(lines.map((line) => [line.id, line.text, line.waiting, line.version])).toEqual([
      ["a", "5 of 9", false, 3],
      ["b", "7 of 9", true, 1],
    ]);
  });
  it("leaves out what is voided on this device, and keeps what was refused with its reason", () => {
    const lines = read(
      [{ id: "a", version: 1, score: 5 }],
      [voidRecord("a"), rating("b", 12, "s1", "Vigour must be at most 9")],
    );
    expect(lines.map((line) => [line.id, line.refused])).toEqual([["b", "Vigour must be at most 9"]]);
    expect(voidedIn([voidRecord("a"), rating("b", 1)])).toEqual(new Set(["a"]));
  });
});

describe("taking back", () => {
  const outbox = () => {
    const calls = { add: vi.fn(async () => undefined), drop: vi.fn(async () => undefined) };
    return calls as typeof calls & ReturnType<typeof useOutbox>;
  };
  it("drops what never left the device", async () => {
    const box = outbox();
    await takeBack({ id: "b", waiting: true, version: 1, kind: "rating" }, box, owner);
    expect(box.drop).toHaveBeenCalledWith("b");
    expect(box.add).not.toHaveBeenCalled();
  });
  it("voids what the server has, under an id that is the same when pressed twice", async () => {
    const box = outbox();
    const line = { id: "a", waiting: false, version: 4, kind: "tape-run" as const };
    await takeBack(line, box, owner);
    await takeBack(line, box, owner);
    const ids = box.add.mock.calls.map((call) => (call as unknown as [Waiting])[0]);
    expect(ids.map((item) => item.id)).toEqual(["void:a", "void:a"]);
    expect(ids[0]).toMatchObject({ kind: "void", recordKind: "tape-run", recordId: "a", version: 4, ...owner });
  });
  it("does nothing without a record", async () => {
    const box = outbox();
    await takeBack(undefined, box, owner);
    expect(box.add).not.toHaveBeenCalled();
    expect(box.drop).not.toHaveBeenCalled();
  });
  it("gives every new record an id of its own", () => {
    expect(fresh(owner).id).not.toBe(fresh(owner).id);
  });
});

type Place = Schemas["PlaceOut"];
const place = (number: number, extra = false): Place =>
  ({ number, extra, row: 3, along_m: 10 * number, across_m: 1, words: "" }) as Place;
const plan = {
  walk: [3, 2, 1].map((number) => ({ strip_id: "s1", place: number })).concat([{ strip_id: "s2", place: 1 }]),
} as unknown as Schemas["SamplingPlanOut"];

describe("the next place", () => {
  const places = [place(1), place(2), place(3), place(4, true)];
  it("follows the walk, with those in reserve at the end", () => {
    expect(inWalk(places, plan, "s1").map((item) => item.number)).toEqual([3, 2, 1, 4]);
  });
  it("is the first not counted; a reserve is opened only when more counts are wanted", () => {
    const walk = inWalk(places, plan, "s1");
    expect(nextPlace(walk, new Set(), null)?.number).toBe(3);
    expect(nextPlace(walk, new Set([3, 2]), 5)?.number).toBe(1);
    expect(nextPlace(walk, new Set([1, 2, 3]), 0)).toBeNull();
    expect(nextPlace(walk, new Set([1, 2, 3]), 2)?.number).toBe(4);
  });
});

describe("counts of this visit", () => {
  it("leaves the counts of an earlier visit to themselves", () => {
    const count = (id: string, days: number) => ({
      id,
      plants: 40,
      plants_per_m2: 80,
      place: 2,
      version: 1,
      questions: [],
      recorded_at: new Date(Date.now() - days * 86_400_000).toISOString(),
    });
    const row = { counts: [count("old", 20), count("new", 0)] } as unknown as Schemas["StripStandOut"];
    expect(listOf(aStrip(1), row, [], []).map((listed) => listed.id)).toEqual(["new"]);
  });
});

describe("a tape run in a line", () => {
  it("says CV, doubles and skips, and no CV where positions were only tapped", () => {
    expect(runWords(30, { cv_pct: 34.6, doubles_pct: 3.4, skips_pct: 6.9 })).toBe(
      "30 plants, CV 35 %, doubles 3 %, skips 7 %",
    );
    expect(runWords(9, { cv_pct: null, doubles_pct: 10, skips_pct: 20 })).toBe("9 plants, doubles 10 %, skips 20 %");
  });
});
