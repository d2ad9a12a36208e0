import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { MemoryRouter, useLocation } from "react-router";
import { afterEach, describe, expect, it } from "vitest";
import { Sheets, useSheet } from "./Sheets";
import { WorkingTable } from "./WorkingTable";

afterEach(cleanup);
const SHEETS = [
  ["one", "First"],
  ["two", "Second"],
  ["three", "Third"],
] as const;

function Page() {
  const [sheet, go] = useSheet(SHEETS);
  return (
    <>
      <output>{useLocation().search}</output>
      <Sheets label="Sheets" sheets={SHEETS} sheet={sheet} go={go}>
        <p>{sheet}</p>
      </Sheets>
    </>
  );
}
const open = (place: string) =>
  render(
    <MemoryRouter initialEntries={[place]}>
      <Page />
    </MemoryRouter>,
  );

describe("sheets of a stage", () => {
  it("opens the one in the address, the first when it is none of them", () => {
    open("/?sheet=two");
    expect(screen.getByRole("tab", { name: "Second" }).getAttribute("aria-selected")).toBe("true");
    cleanup();
    open("/?sheet=nowhere");
    expect(screen.getByRole("tabpanel").textContent).toBe("one");
  });
  it("writes the chosen one into the address and keeps what else stands there", () => {
    open("/?strip=7");
    fireEvent.click(screen.getByRole("tab", { name: "Third" }));
    expect(screen.getByRole("status").textContent).toBe("?strip=7&sheet=three");
  });
  it("is walked with arrows, round the ends, only the open tab reached by Tab", () => {
    open("/");
    const bar = screen.getByRole("tablist");
    fireEvent.keyDown(bar, { key: "ArrowLeft" });
    expect(screen.getByRole("tabpanel").textContent).toBe("three");
    fireEvent.keyDown(bar, { key: "ArrowRight" });
    expect(screen.getByRole("tabpanel").textContent).toBe("one");
    expect(screen.getAllByRole("tab").map((tab) => tab.tabIndex)).toEqual([0, -1, -1]);
  });
});

describe("the table of a working", () => {
  it("shows heading and rows, and nothing without rows", () => {
    const { container } = render(<WorkingTable rows={[]} />);
    expect(container.innerHTML).toBe("");
    render(
      <WorkingTable
        rows={[
          ["Holes", "Rate"],
          ["24", "7.8 /m²"],
        ]}
      />,
    );
    expect(screen.getAllByRole("columnheader").map((element) => element.textContent)).toEqual(["Holes", "Rate"]);
    expect(screen.getAllByRole("cell").map((element) => element.textContent)).toEqual(["24", "7.8 /m²"]);
  });
});
