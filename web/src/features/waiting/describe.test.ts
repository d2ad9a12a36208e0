import { describe, expect, it } from "vitest";
import type { Waiting } from "../fieldbook/outbox";
import { corrected, entriesOf, heldOf, lineOf, momentOf } from "./describe";

const count = {
  id: "a",
  kind: "count",
  person: "tobin",
  trialId: "t1",
  stripId: "s1",
  plantsPerM2: 80,
  refused: "said 422",
  made: 1_777_622_400_000,
  body: {
    strip_id: "s1",
    method: "rows",
    plants: "41",
    rows: "4",
    length: { text: "1", unit: "m" },
    gaps: 2,
    recorded_at: "2026-05-01T08:00:00Z",
  },
} as unknown as Waiting;

describe("a record in words", () => {
  it("shows its entries as they were typed", () => {
    expect(entriesOf(count).map((entry) => [entry.label, entry.text, entry.unit])).toEqual([
      ["Plants counted", "41", null],
      ["Rows counted", "4", null],
      ["Length", "1", "m"],
      ["Gaps", "2", null],
    ]);
    expect(lineOf(count)).toBe("Stand count, Plants counted 41, Rows counted 4, Length 1 m, Gaps 2");
    expect(momentOf(count)).toBe("2026-05-01T08:00:00Z");
  });
  it("corrects what was mistyped and keeps the rest, strip and moment with it", () => {
    const mended = corrected(count, { plants: "44", length: "2", gaps: "3" }, "s2", "2026-05-02T08:00:00Z");
    expect(mended).toMatchObject({
      id: "a",
      stripId: "s2",
      body: { strip_id: "s2", plants: "44", rows: "4", length: { text: "2", unit: "m" }, gaps: 3 },
    });
    expect(momentOf(mended)).toBe("2026-05-02T08:00:00Z");
    expect(entriesOf(count)[0]?.text).toBe("41");
  });
  it("says what the server holds, without ids and numbers of its own", () => {
    const held = { version: 3, id: "x", strip_id: "s1", plants: 40, length_typed: "1", length_unit: "m", length_m: 1 };
    expect(heldOf(held)).toEqual([
      ["Plants counted", "40"],
      ["Length", "1 m"],
    ]);
  });
});
