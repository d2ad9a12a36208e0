import { act, cleanup, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { Fault } from "../api/client";
import { faultOf, SavingProvider, useSaving } from "./saving";

afterEach(cleanup);
let saving: ReturnType<typeof useSaving>;
function Probe() {
  saving = useSaving();
  return (
    <p>
      {saving.state} {saving.message} {saving.undo?.label}
    </p>
  );
}
const show = () =>
  render(
    <SavingProvider>
      <Probe />
    </SavingProvider>,
  );
const text = () => screen.getByText(/idle|saving|saved|failed/).textContent?.trim();

describe("saving", () => {
  it("shows that it saves, that it saved, and what can be undone", async () => {
    show();
    let finish: () => void = () => undefined;
    const work = new Promise<void>((resolve) => {
      finish = resolve;
    });
    let saved: Promise<void> = Promise.resolve();
    act(() => {
      saved = saving.save(() => work, { label: "guess", run: async () => undefined });
    });
    expect(text()).toBe("saving");
    await act(async () => {
      finish();
      await saved;
    });
    expect(text()).toContain("saved");
    expect(text()).toContain("guess");
  });
  it("says why a write was refused and passes it on", async () => {
    show();
    await act(async () => {
      await expect(
        saving.save(() => Promise.reject(new Fault(422, "missing", "A title is missing.", "title"))),
      ).rejects.toThrow("A title is missing.");
    });
    expect(text()).toBe("failed A title is missing.");
  });
  it("takes back the last first", async () => {
    show();
    const done: string[] = [];
    for (const label of ["one", "two"]) {
      await act(() => saving.save(async () => undefined, { label, run: async () => void done.push(label) }));
    }
    await act(() => saving.takeBack());
    expect(saving.undo?.label).toBe("one");
    await act(() => saving.takeBack());
    expect(done).toEqual(["two", "one"]);
    expect(saving.undo).toBeNull();
    const idle = vi.fn();
    await act(async () => {
      await saving.takeBack();
      idle();
    });
    expect(idle).toHaveBeenCalled();
    expect(done).toHaveLength(2);
  });
  it("offers no undo for what was refused", async () => {
    show();
    await act(async () => {
      await saving
        .save(() => Promise.reject(new Error("x")), { label: "never", run: async () => undefined })
        .catch(() => undefined);
    });
    expect(saving.undo).toBeNull();
  });
});

describe("words for a fault", () => {
  it("keeps the server's words and field, and never shows the inside of an error", () => {
    expect(faultOf(new Fault(422, "x", "Blocks must be at least 2.", "blocks"))).toEqual({
      field: "blocks",
      message: "Blocks must be at least 2.",
    });
    expect(faultOf(new TypeError("undefined is not a function")).message).not.toMatch(/undefined/);
  });
});
