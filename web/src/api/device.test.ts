import { beforeEach, describe, expect, it } from "vitest";
import { isTooOld, roomWords } from "../app/offline";
import { clockOffset, namedHeaders, noteServerTime, offsetFor } from "./device";

beforeEach(() => localStorage.clear());

describe("the device's clock", () => {
  it("is compared with the middle of question and answer", () => {
    expect(clockOffset()).toBeNull();
    noteServerTime(1_000_000, 400_000, 410_000);
    expect(clockOffset()).toBe(595);
    noteServerTime(Number.NaN, 0, 0);
    expect(clockOffset()).toBe(595);
    noteServerTime(10_500, 10_000, 10_200);
    expect(clockOffset()).toBe(0);
  });
  it.each([
    [null, 500, 500],
    [500, null, 500],
    [500, 530, 530],
    [90_000, 0, 90_000],
    [undefined, null, 0],
  ])("known then %s and now %s corrects by %s", (then, now, by) => {
    expect(offsetFor(then, now)).toBe(by);
  });
  it("is told only where it is off", () => {
    noteServerTime(500_000, 0, 0);
    expect(namedHeaders({ person: "tobin", workspaceId: "w" })["X-Clock-Offset"]).toBe("500");
    expect(namedHeaders({ person: "tobin", workspaceId: "w", clock: 480 })["X-Clock-Offset"]).toBe("500");
    noteServerTime(60_000, 0, 0);
    expect(namedHeaders({ person: "tobin", workspaceId: "w" })).not.toHaveProperty("X-Clock-Offset");
  });
});

describe("what is kept for offline use", () => {
  it("is too old after the days that the workspace says", () => {
    const now = Date.parse("2026-11-29T12:00:00Z");
    expect(isTooOld("Sun, 15 Nov 2026 11:59:00 GMT", 14, now)).toBe(true);
    expect(isTooOld("Sun, 15 Nov 2026 12:01:00 GMT", 14, now)).toBe(false);
    expect(isTooOld(null, 14, now)).toBe(false);
  });
  it("says when the device is nearly full", () => {
    expect(roomWords(null)).toBe("");
    expect(roomWords(500e6)).toBe("");
    expect(roomWords(12.4e6)).toContain("12 MB");
  });
});
