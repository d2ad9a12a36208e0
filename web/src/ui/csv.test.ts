// @vitest-environment node
import { describe, expect, it } from "vitest";
import { csvText, pastedColumn } from "./csv";

describe("CSV out", () => {
  it("quotes what needs it, as RFC 4180 has it", () => {
    expect(csvText([["a", 'say "so"', "x,y", "two\nlines", 1.5, null]])).toBe(
      'a,"say ""so""","x,y","two\nlines",1.5,\r\n',
    );
  });
  it.each(["=1+1", "+cmd", "@sum", "-lookup", "\tx"])("does not let %j run as a formula in a spreadsheet", (text) => {
    expect(csvText([[text]]).replaceAll('"', "")).toMatch(/^'/);
  });
  it("leaves negative numbers and their text alone", () => {
    expect(csvText([[-3.5, "-3.5", "-.5"]])).toBe("-3.5,-3.5,-.5\r\n");
  });
});

describe("a pasted column", () => {
  it("is one cell a line, whatever ends the lines", () => {
    expect(pastedColumn("1\r\n2\r\n3\r\n")).toEqual(["1", "2", "3"]);
    expect(pastedColumn("1\n\n3")).toEqual(["1", "", "3"]);
    expect(pastedColumn("1\r2")).toEqual(["1", "2"]);
  });
  it("takes the first of several columns", () => {
    expect(pastedColumn(" 7 \tx\n8\ty\n")).toEqual(["7", "8"]);
  });
});
