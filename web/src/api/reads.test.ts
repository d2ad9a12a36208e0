// @vitest-environment node
import { describe, expect, it } from "vitest";
import document from "../../../docs/openapi.json";
import { FOLLOWING, PACKED, PACKED_ADDRESSES, READS } from "./reads";

const ID = "0f8b6a1c-5d2e-4f3a-9b7c-112233445566";
const address = (path: string) => `http://farm.example${path.replace(/\{\w+\}/g, ID)}`;

describe("the list of what is read", () => {
  it("names addresses that the server answers", () => {
    const known = Object.entries(document.paths).flatMap(([path, how]) => ("get" in how ? [path] : []));
    expect(READS.map((read) => read.path).filter((path) => !known.includes(path))).toEqual([]);
  });
  it("keeps what is taken along, and nothing else", () => {
    for (const read of READS)
      expect([read.key, PACKED_ADDRESSES.test(address(read.path))]).toEqual([read.key, !!read.packed]);
    expect(PACKED_ADDRESSES.test(`${address("/api/trials/{trial_id}/pass-card")}?driving=as_laid&reserve_pct=0`)).toBe(
      true,
    );
    expect(PACKED_ADDRESSES.test(address("/api/trials/{trial_id}/report"))).toBe(false);
  });
  it("has one key for each, and all that the field book shows follows the trial", () => {
    expect(new Set(READS.map((read) => read.key)).size).toBe(READS.length);
    const shown = PACKED.filter((read) => read.of === "trial" && !read.query).map((read) => read.key);
    expect(shown.filter((key) => !FOLLOWING.some((read) => read.key === key))).toEqual([]);
  });
});
