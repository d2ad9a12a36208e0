import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";

let settle: () => void = () => undefined;
const mutate = vi.fn((_: unknown, options: { onSettled: () => void }) => {
  settle = options.onSettled;
});
vi.mock("../api/queries", () => ({ usePreferences: () => ({ mutate }) }));
const { Help } = await import("./Help");
const { act } = await import("react");

// jsdom draws no dialogs: what is inside is what matters here
for (const name of ["showModal", "close"] as const) HTMLDialogElement.prototype[name] ??= () => undefined;
afterEach(cleanup);

it("shows the chosen state at once, and the session's once the server has answered", () => {
  render(<Help singleKeys={true} onClose={() => undefined} />);
  const box = () => screen.getByLabelText<HTMLInputElement>(/Single keys are on/);
  expect(box().checked).toBe(true);
  fireEvent.click(box());
  expect(box().checked).toBe(false);
  expect(mutate.mock.calls[0]?.[0]).toEqual({ single_keys: false });
  act(() => settle());
  expect(box().checked).toBe(true); // here the session never changed: the answer was a refusal
});
