import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { QuantityField, TextField } from "./fields";

afterEach(cleanup);
const cache = new QueryClient({ defaultOptions: { queries: { staleTime: Number.POSITIVE_INFINITY, retry: false } } });
cache.setQueryData(["catalogue"], {
  crops: [],
  factor_kinds: [],
  event_kinds: [],
  units: {
    length: [
      { code: "m", label: "m", system: "metric", factor: 1 },
      { code: "cm", label: "cm", system: "metric", factor: 0.01 },
      { code: "in", label: "in", system: "us", factor: 0.0254 },
    ],
  },
});
const METRIC = { of: {}, own: ["m", "cm"] };
const US = { of: {}, own: ["in"] };
const show = (node: ReactNode) => render(<QueryClientProvider client={cache}>{node}</QueryClientProvider>);

describe("a text", () => {
  it("commits when left or on Enter, once, and not when nothing changed", () => {
    const commit = vi.fn();
    show(<TextField label="Guess" value="old" onCommit={commit} />);
    const field = screen.getByLabelText("Guess");
    fireEvent.blur(field);
    expect(commit).not.toHaveBeenCalled();
    fireEvent.change(field, { target: { value: "new" } });
    fireEvent.keyDown(field, { key: "Enter" });
    expect(commit).toHaveBeenCalledExactlyOnceWith("new");
  });
  it("keeps what is being typed when the answer to the last save arrives", () => {
    const commit = vi.fn();
    const drawn = show(<TextField label="Guess" value="" onCommit={commit} />);
    const field = screen.getByLabelText("Guess") as HTMLInputElement;
    fireEvent.change(field, { target: { value: "first" } });
    fireEvent.blur(field);
    fireEvent.change(field, { target: { value: "second" } });
    drawn.rerender(
      <QueryClientProvider client={cache}>
        <TextField label="Guess" value="first" onCommit={commit} />
      </QueryClientProvider>,
    );
    expect(field.value).toBe("second");
    fireEvent.blur(field);
    expect(commit.mock.calls).toEqual([["first"], ["second"]]);
    drawn.rerender(
      <QueryClientProvider client={cache}>
        <TextField label="Guess" value="put right elsewhere" onCommit={commit} />
      </QueryClientProvider>,
    );
    expect(field.value).toBe("put right elsewhere");
  });
  it("says its error by the field and ties the two together", () => {
    show(<TextField label="Guess" value="x" error="Too long." onCommit={() => undefined} />);
    const field = screen.getByLabelText("Guess");
    expect(field.getAttribute("aria-invalid")).toBe("true");
    expect(document.getElementById(field.getAttribute("aria-describedby") ?? "")?.textContent).toBe("Too long.");
  });
});

describe("a quantity", () => {
  const value = { text: "12,5", unit: "cm", shown: "4.92 in" };
  it("shows what was typed, in the unit it was typed in, whatever the reader's system", () => {
    show(<QuantityField label="Width" dimension="length" reader={US} value={value} onCommit={() => undefined} />);
    expect((screen.getByLabelText("Width") as HTMLInputElement).value).toBe("12,5");
    expect((screen.getByLabelText("Unit of width") as HTMLSelectElement).value).toBe("cm");
    expect(screen.getByText("typed as 12,5 cm; that is 4.92 in")).toBeTruthy();
  });
  it("says nothing of the other system to who typed in their own", () => {
    show(<QuantityField label="Width" dimension="length" reader={METRIC} value={value} onCommit={() => undefined} />);
    expect(screen.queryByText(/typed as/)).toBeNull();
  });
  it("commits the text with its unit, also when only the unit changes", () => {
    const commit = vi.fn();
    show(<QuantityField label="Width" dimension="length" reader={METRIC} value={value} onCommit={commit} />);
    fireEvent.change(screen.getByLabelText("Unit of width"), { target: { value: "in" } });
    expect(commit).toHaveBeenLastCalledWith({ text: "12,5", unit: "in" });
    fireEvent.change(screen.getByLabelText("Width"), { target: { value: "5" } });
    fireEvent.blur(screen.getByLabelText("Width"));
    expect(commit).toHaveBeenLastCalledWith({ text: "5", unit: "in" });
  });
  it("keeps what is being typed when the list of units arrives late", async () => {
    const late = new QueryClient({ defaultOptions: { queries: { enabled: false, retry: false } } });
    const commit = vi.fn();
    const field = { text: "20.2", unit: "" };
    render(
      <QueryClientProvider client={late}>
        <QuantityField label="Width" dimension="length" reader={METRIC} value={field} onCommit={commit} />
      </QueryClientProvider>,
    );
    fireEvent.change(screen.getByLabelText("Width"), { target: { value: "10" } });
    act(() => void late.setQueryData(["catalogue"], cache.getQueryData(["catalogue"])));
    await waitFor(() => expect((screen.getByLabelText("Unit of width") as HTMLSelectElement).value).toBe("m"));
    expect((screen.getByLabelText("Width") as HTMLInputElement).value).toBe("10");
    fireEvent.blur(screen.getByLabelText("Width"));
    expect(commit).toHaveBeenCalledExactlyOnceWith({ text: "10", unit: "m" });
  });
  it("keeps what is being typed when the answer to the last save arrives", () => {
    const commit = vi.fn();
    const field = (text: string) => (
      <QueryClientProvider client={cache}>
        <QuantityField
          label="Width"
          dimension="length"
          reader={METRIC}
          value={{ text, unit: "cm" }}
          onCommit={commit}
        />
      </QueryClientProvider>
    );
    const drawn = render(field("10"));
    fireEvent.change(screen.getByLabelText("Width"), { target: { value: "12" } });
    fireEvent.blur(screen.getByLabelText("Width"));
    fireEvent.change(screen.getByLabelText("Width"), { target: { value: "13" } });
    drawn.rerender(field("12"));
    expect((screen.getByLabelText("Width") as HTMLInputElement).value).toBe("13");
  });
  it("offers the reader's own units first", () => {
    show(
      <QuantityField
        label="Width"
        dimension="length"
        reader={US}
        value={{ text: "", unit: "" }}
        onCommit={() => undefined}
      />,
    );
    const options = [...(screen.getByLabelText("Unit of width") as HTMLSelectElement).options].map(
      (option) => option.value,
    );
    expect(options).toEqual(["in", "m", "cm"]);
  });
});
