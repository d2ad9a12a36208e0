import { cleanup, fireEvent, render, screen, within } from "@testing-library/react";
import { MemoryRouter } from "react-router";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Trial } from "../../api/client";
import { METRIC, US } from "../../tests/readers";
import { aStrip } from "../../tests/strips";
import { BookList } from "./BookList";
import { sownFor, storeSown } from "./HowSown";
import { Keypad, useKeys } from "./Keypad";
import { OtherwiseForm } from "./OtherwiseForm";

afterEach(cleanup);
beforeEach(() => localStorage.clear());

const trial = {
  treatments: [
    { id: "a", letter: "A", name: "3 cm" },
    { id: "b", letter: "B", name: "5 cm" },
  ],
} as unknown as Trial;
const kinds = [
  ["skip", "Skip"],
  ["wrong_setting", "Wrong setting"],
  ["other", "Something else"],
];

function form() {
  const record = vi.fn();
  render(<OtherwiseForm trial={trial} strip={aStrip(1, "a")} kinds={kinds} record={record} close={vi.fn()} />);
  const keep = () => screen.getByRole<HTMLButtonElement>("button", { name: "Record it" });
  return { record, keep };
}

describe("what went otherwise, in few touches", () => {
  it("wants to know what a strip got when the setting was wrong", () => {
    const { record, keep } = form();
    expect(keep().disabled).toBe(true);
    fireEvent.click(screen.getByRole("button", { name: "Wrong setting" }));
    expect(keep().disabled).toBe(true);
    fireEvent.click(within(screen.getByRole("group", { name: "It got" })).getByRole("button", { name: /^B/ }));
    fireEvent.change(screen.getByLabelText("In a word"), { target: { value: " lever not moved " } });
    fireEvent.click(keep());
    expect(record).toHaveBeenCalledWith({
      kind: "wrong_setting",
      rows: null,
      sown_treatment_id: "b",
      note: "lever not moved",
      words: "Wrong setting, got B, lever not moved",
    });
  });
  it("takes a skip with its rows and never a treatment", () => {
    const { record, keep } = form();
    fireEvent.click(screen.getByRole("button", { name: "Skip" }));
    fireEvent.change(screen.getByLabelText("Rows"), { target: { value: "2x" } });
    fireEvent.click(keep());
    expect(record.mock.calls[0]?.[0]).toMatchObject({
      kind: "skip",
      rows: 2,
      sown_treatment_id: null,
      words: "Skip, 2 rows",
    });
  });
  it("forgets what it got when another kind is chosen", () => {
    const { record, keep } = form();
    fireEvent.click(screen.getByRole("button", { name: "Wrong setting" }));
    fireEvent.click(within(screen.getByRole("group", { name: "It got" })).getByRole("button", { name: /^B/ }));
    fireEvent.click(screen.getByRole("button", { name: "Skip" }));
    fireEvent.click(keep());
    expect(record.mock.calls[0]?.[0]).toMatchObject({ kind: "skip", sown_treatment_id: null });
  });
  it("asks for a word when it is something else", () => {
    const { keep } = form();
    fireEvent.click(screen.getByRole("button", { name: "Something else" }));
    expect(keep().disabled).toBe(true);
    fireEvent.change(screen.getByLabelText("In a word"), { target: { value: "stone" } });
    expect(keep().disabled).toBe(false);
  });
});

describe("how strips are sown", () => {
  it("is remembered for the trial, in the reader's units at first", () => {
    expect(sownFor("t1", US).speed).toEqual({ text: "", unit: "mph" });
    storeSown("t1", { ...sownFor("t1", METRIC), soil: "moist", settings: { a: "42" } });
    expect(sownFor("t1", METRIC)).toMatchObject({ soil: "moist", settings: { a: "42" } });
    expect(sownFor("t2", METRIC).settings).toEqual({});
  });
  it("starts anew from a note that cannot be read", () => {
    localStorage.setItem("sown:t1", "{not json");
    expect(sownFor("t1", METRIC).soil).toBe("");
  });
});

describe("what stands on a strip", () => {
  it("says where each record lies, and leads from a refused one to where it is corrected", () => {
    const takeBack = vi.fn();
    const lines = [
      { id: "a", text: "sown 09:11", waiting: false, refused: null },
      { id: "b", text: "Skip", waiting: true, refused: null },
      { id: "c", text: "Plugged row", waiting: true, refused: "said 422" },
    ];
    render(
      <MemoryRouter>
        <BookList label="Sowing" lines={lines} onTakeBack={takeBack} />
      </MemoryRouter>,
    );
    const rows = screen.getAllByRole("listitem").map((element) => element.textContent);
    expect(rows).toEqual([
      expect.stringContaining("refused"),
      expect.stringContaining("this device"),
      expect.stringContaining("server"),
    ]);
    fireEvent.click(screen.getByRole("button", { name: /Take back\s*Skip/ }));
    expect(takeBack).toHaveBeenCalledWith("b");
    expect(screen.getByRole("link", { name: "Correct" }).getAttribute("href")).toBe("/waiting");
    expect(screen.queryByRole("button", { name: /Take back Plugged/ })).toBeNull();
  });
});

const acts = { digit: vi.fn(), point: vi.fn(), back: vi.fn(), enter: vi.fn(), go: vi.fn() };
function Book({ decimals }: { decimals: boolean }) {
  return <Keypad press={useKeys(acts)} recordable decimals={decimals} what="depth" />;
}

describe("a keypad with decimals", () => {
  it("takes a point by thumb, full stop and comma; without decimals there is none", () => {
    const { rerender } = render(<Book decimals />);
    fireEvent.click(screen.getByRole("button", { name: "Decimal point" }));
    for (const key of [".", ","]) fireEvent.keyDown(document.body, { key });
    expect(acts.point).toHaveBeenCalledTimes(3);
    expect(screen.getByRole("button", { name: /last figure or depth/ })).toBeTruthy();
    rerender(<Book decimals={false} />);
    expect(screen.queryByRole("button", { name: "Decimal point" })).toBeNull();
  });
});
