import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas, Trial } from "../../api/client";
import { METRIC, US } from "../../tests/readers";
import { methodFor, storeMethod } from "./HowCounted";
import { type Acts, Keypad, useKeys } from "./Keypad";

afterEach(cleanup);
const acts = { digit: vi.fn(), back: vi.fn(), enter: vi.fn(), go: vi.fn() } satisfies Acts;
function Book() {
  const press = useKeys(acts);
  return (
    <>
      <input aria-label="a field" />
      <a href="#x">Leave the book</a>
      <Keypad press={press} recordable />
    </>
  );
}
beforeEach(() => {
  for (const mock of Object.values(acts)) mock.mockReset();
  localStorage.clear();
});

describe("keys of the book", () => {
  it("takes digits, Enter, Backspace and arrows from the keyboard", () => {
    render(<Book />);
    for (const key of ["4", "1", "Enter", "Backspace", "ArrowLeft", "ArrowRight"])
      fireEvent.keyDown(document.body, { key });
    expect(acts.digit.mock.calls.flat()).toEqual(["4", "1"]);
    expect(acts.enter).toHaveBeenCalledOnce();
    expect(acts.back).toHaveBeenCalledOnce();
    expect(acts.go.mock.calls.flat()).toEqual([-1, 1]);
  });
  it("is silent while a field has the focus, and leaves Enter to Leave the book or button", () => {
    render(<Book />);
    const field = screen.getByLabelText("a field");
    for (const key of ["4", "Enter", "Backspace", "ArrowLeft"]) fireEvent.keyDown(field, { key });
    fireEvent.keyDown(screen.getByText("Leave the book"), { key: "Enter" });
    for (const mock of Object.values(acts)) expect(mock).not.toHaveBeenCalled();
    fireEvent.keyDown(screen.getByText("Leave the book"), { key: "7" });
    expect(acts.digit).toHaveBeenCalledWith("7");
  });
  it("leaves the browser's own keys alone", () => {
    render(<Book />);
    fireEvent.keyDown(document.body, { key: "1", ctrlKey: true });
    fireEvent.keyDown(document.body, { key: "1", altKey: true });
    expect(acts.digit).not.toHaveBeenCalled();
  });
  it("takes the same by thumb", () => {
    render(<Book />);
    for (const digit of ["0", "5", "9"]) fireEvent.click(screen.getByRole("button", { name: digit }));
    fireEvent.click(screen.getByRole("button", { name: "Record" }));
    fireEvent.click(screen.getByRole("button", { name: /^Back/ }));
    expect(acts.digit.mock.calls.flat()).toEqual(["0", "5", "9"]);
    expect(acts.enter).toHaveBeenCalledOnce();
    expect(acts.back).toHaveBeenCalledOnce();
  });
});

describe("how plants are counted at first", () => {
  const trial = { id: "t1" } as Trial;
  const tape = (row_spacing: string, rows: number, tape_m: number, words = "") =>
    ({ row_spacing, rows, tape_m, tape: words }) as Schemas["TapeOut"];
  const stand = { tapes: [tape("12.5 cm", 4, 2.0), tape("25.0 cm", 4, 1.0)] } as Schemas["StandOut"];
  it("is the tape of the strip's own row spacing", () => {
    const method = methodFor(trial, stand, { text: "25", unit: "cm", shown: "25.0 cm" }, METRIC);
    expect(method).toMatchObject({ method: "rows", rows: "4", length: { text: "1.00", unit: "m" } });
  });
  it("is read off a tape in feet and inches where it is long, in inches where it is short", () => {
    const long = { tapes: [tape("30.00 in", 1, 5.3086, "17 ft 5 in")] } as Schemas["StandOut"];
    const spacing = { text: "30", unit: "in", shown: "30.00 in" };
    expect(methodFor(trial, long, spacing, US).length).toEqual({ text: "17 ft 5 in", unit: "ft" });
    const short = { tapes: [tape("30.00 in", 4, 0.8128, "32 in")] } as Schemas["StandOut"];
    expect(methodFor(trial, short, spacing, US).length).toEqual({ text: "32", unit: "in" });
  });
  it("is as it was last counted, and a broken note does not stop the count", () => {
    const method = methodFor(trial, stand, undefined, METRIC);
    storeMethod("t1", { ...method, rows: "3", blind: true });
    expect(methodFor(trial, stand, undefined, METRIC)).toMatchObject({ rows: "3", blind: true });
    localStorage.setItem("count:t1", "{");
    expect(methodFor(trial, stand, undefined, METRIC).rows).toBe("4");
  });
});
