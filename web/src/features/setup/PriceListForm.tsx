import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type Schemas } from "../../api/client";
import { useHere } from "../../app/Gate";
import { faultOf, useSaving } from "../../app/saving";
import { TextField, useUnits } from "../../ui/fields";
import { Problem } from "../../ui/Problem";
import { useCropChoices, useReaderUnits } from "../../ui/readerUnits";
import { UnitEntry } from "../../ui/UnitEntry";

type List = Schemas["PriceListOut"];
type Row = Schemas["PriceItemIn"] & { key: string };
type Kind = Row["kind"];
const KINDS: [Kind, string][] = [
  ["crop", "A crop"],
  ["fuel", "Fuel"],
  ["hour", "An hour"],
  ["area", "By area"],
  ["bag", "A bag or sum"],
];

/** A list is kept whole: what is typed stays until it is kept, and refused prices say why. */
export function PriceListForm({ list, writable, done }: { list: List | null; writable: boolean; done: () => void }) {
  const { workspace } = useHere();
  const cache = useQueryClient();
  const crops = useCropChoices();
  const { save } = useSaving();
  const [id] = useState(() => list?.id ?? crypto.randomUUID());
  const [head, setHead] = useState({
    name: list?.name ?? "",
    dated: list?.dated ?? "",
    source: list?.source ?? "",
    currency: workspace.currency,
  });
  const [rows, setRows] = useState<Row[]>(
    list?.items.map((item) => ({
      key: String(item.id),
      kind: item.kind,
      crop: item.crop,
      name: item.kind === "crop" ? "" : item.name,
      price: { text: item.price.text, unit: item.price.unit },
    })) ?? [],
  );
  const [problem, setProblem] = useState("");
  const reader = useReaderUnits();
  const money = (units: [string, string][]) =>
    units.map(([code, label]): [string, string] => [code, workspace.currency + label]);
  const units: Record<Kind, [string, string][]> = {
    crop: money(useUnits("price", reader)),
    fuel: money(useUnits("money_per_volume", reader)),
    hour: money(useUnits("money_per_time", reader)),
    area: money(useUnits("money_per_area", reader)),
    bag: money(useUnits("money", reader)),
  };
  const put = (key: string, part: Partial<Row>) =>
    setRows((now) => now.map((row) => (row.key === key ? { ...row, ...part } : row)));
  const fresh = (kind: Kind): Row => ({
    key: crypto.randomUUID(),
    kind,
    crop: kind === "crop" ? (crops[0]?.[0] ?? "") : "",
    name: "",
    price: { text: "", unit: units[kind][0]?.[0] ?? "" },
  });
  async function keep(retired: boolean) {
    setProblem("");
    try {
      await save(() =>
        ask(
          client.PUT("/api/workspaces/{workspace_id}/price-lists/{list_id}", {
            params: { path: { workspace_id: workspace.id, list_id: id } },
            body: { version: list?.version ?? 0, ...head, retired, items: rows.map(({ key: _, ...row }) => row) },
          }),
        ),
      );
      await cache.invalidateQueries({ queryKey: ["price-lists"] });
      done();
    } catch (error) {
      setProblem(faultOf(error).message);
    }
  }
  const text = (name: keyof typeof head, label: string, type: "text" | "date" = "text") => (
    <TextField
      label={label}
      type={type}
      value={head[name]}
      disabled={!writable}
      onCommit={(value) => setHead((now) => ({ ...now, [name]: value }))}
    />
  );
  return (
    <form
      aria-label="Price list"
      className="mt-2 border-l-4 border-base-content p-3"
      onSubmit={(event) => {
        event.preventDefault();
        void keep(false);
      }}
    >
      <div className="grid grid-cols-2 gap-3">
        {text("name", "Name of the list")}
        {text("dated", "Day of the prices", "date")}
        {text("source", "Source of the prices")}
        {text("currency", "Currency")}
      </div>
      {rows.map((row, place) => (
        <div key={row.key} className="mt-2 flex flex-wrap items-end gap-2">
          <select
            aria-label={`Kind of price ${place + 1}`}
            className="entry w-auto"
            value={row.kind}
            disabled={!writable}
            onChange={(event) => put(row.key, { ...fresh(event.target.value as Kind), key: row.key })}
          >
            {KINDS.map(([kind, name]) => (
              <option key={kind} value={kind}>
                {name}
              </option>
            ))}
          </select>
          {row.kind === "crop" ? (
            <select
              aria-label={`Crop of price ${place + 1}`}
              className="entry w-auto"
              value={row.crop}
              disabled={!writable}
              onChange={(event) => put(row.key, { crop: event.target.value })}
            >
              {crops.map(([key, name]) => (
                <option key={key} value={key}>
                  {name}
                </option>
              ))}
            </select>
          ) : (
            <input
              aria-label={`What price ${place + 1} is of`}
              className="entry w-40"
              value={row.name}
              disabled={!writable}
              onChange={(event) => put(row.key, { name: event.target.value })}
            />
          )}
          <div className="w-44">
            <UnitEntry
              label={`Price ${place + 1}`}
              value={row.price}
              units={units[row.kind]}
              numeric
              disabled={!writable}
              onChange={(price) => put(row.key, { price })}
            />
          </div>
          {writable && (
            <button
              type="button"
              className="underline"
              onClick={() => setRows((now) => now.filter((item) => item.key !== row.key))}
            >
              Remove<span className="sr-only"> price {place + 1}</span>
            </button>
          )}
        </div>
      ))}
      <Problem>{problem}</Problem>
      {writable && (
        <div className="mt-3 flex flex-wrap gap-3">
          <button type="button" className="plain" onClick={() => setRows((now) => [...now, fresh("crop")])}>
            Add a price
          </button>
          <button type="submit" className="act">
            Keep the list
          </button>
          {list && !list.retired && (
            <button type="button" className="plain" onClick={() => void keep(true)}>
              Retire it
            </button>
          )}
        </div>
      )}
    </form>
  );
}
