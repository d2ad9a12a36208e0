import { cleanup, render } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import type { Strip } from "../api/client";
import { aStrip } from "../tests/strips";
import { Ribbon } from "./Ribbon";

afterEach(cleanup);

/** A treatment that counts how often a strip that has it is drawn. */
function counted() {
  let times = 0;
  const treatment = {
    id: "a",
    position: 0,
    name: "as now",
    get letter() {
      times += 1;
      return "A";
    },
  };
  return { treatments: [treatment], times: () => times };
}

/** How often strips are drawn when another one is selected: `make bench` prints it. */
describe.each([24, 200])("a ribbon of %i strips", (count) => {
  it("draws two strips again when the selection moves, not all of them", () => {
    const strips: Strip[] = Array.from({ length: count }, (_, place) =>
      aStrip(place + 1, "a", { place: [place * 6, 0, place * 6 + 6, 300] }),
    );
    const { treatments, times } = counted();
    const page = (selected: string) => (
      <Ribbon strips={strips} treatments={treatments} selected={selected} onSelect={() => undefined} />
    );
    const { rerender } = render(page("s1"));
    const first = times();
    expect(first).toBeGreaterThanOrEqual(count);
    const aStripCosts = first / count;
    rerender(page("s2"));
    const again = (times() - first) / aStripCosts;
    console.info(`selecting one of ${count} strips draws ${again} of them again`);
    expect(again).toBe(2);
  });
});
