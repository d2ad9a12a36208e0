// @vitest-environment node
import { afterEach, expect, it } from "vitest";
import { setWriting, writtenDay, writtenMoment, writtenNumber } from "./writing";

afterEach(() => setWriting("day_first"));

it("writes days and numbers as the workspace has them", () => {
  expect([writtenDay("2026-05-03"), writtenNumber(12_500), writtenNumber(9_500)]).toEqual([
    "3 May 2026",
    "12\u202f500",
    "9500",
  ]);
  setWriting("month_first");
  expect([writtenDay("2026-05-03"), writtenNumber(12_500)]).toEqual(["May 3, 2026", "12,500"]);
  setWriting("comma_day_first");
  expect([writtenDay("2026-05-03"), writtenNumber(1_212_500)]).toEqual(["3 May 2026", "1,212,500"]);
});

it("writes hours by 24, whatever the order of day and month", () => {
  const at = new Date(2026, 4, 3, 17, 5).toISOString();
  expect(writtenMoment(at)).toContain("17:05");
  setWriting("month_first");
  expect(writtenMoment(at, { year: true })).toMatch(/^May 3, 2026.*17:05$/);
});
