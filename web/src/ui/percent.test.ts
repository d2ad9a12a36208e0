// @vitest-environment node
import { expect, it } from "vitest";
import { signedPct } from "./percent";

it("signs a percent only where it shows one", () => {
  expect([6.4, -6.4, 0.4, -0.4, 0].map((item) => signedPct(item).replace("\u00a0", " "))).toEqual([
    "+6 %",
    "\u22126 %",
    "0 %",
    "0 %",
    "0 %",
  ]);
  expect(signedPct(-0.04, 1).replace("\u00a0", " ")).toBe("0.0 %");
  expect(signedPct(1.26, 1).replace("\u00a0", " ")).toBe("+1.3 %");
});
