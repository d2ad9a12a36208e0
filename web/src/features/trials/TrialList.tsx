import { useMemo, useState } from "react";
import { Link, useSearchParams } from "react-router";
import type { Schemas } from "../../api/client";
import { useTrials } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { saveCsv } from "../../ui/csv";
import { LAYERS, type Layer } from "../../ui/Ribbon";
import { Waiting } from "../../ui/Waiting";
import { TrialLine } from "./TrialLine";

type Row = Schemas["TrialRowOut"];
const ORDERS: [string, string][] = [
  ["season", "season, latest first"],
  ["title", "title"],
  ["crop", "crop"],
  ["next", "what comes next"],
];

function sorted(rows: Row[], order: string): Row[] {
  const by: Record<string, (row: Row) => string> = {
    title: (row) => row.title,
    crop: (row) => row.crop_name + row.title,
    next: (row) => row.next_note,
  };
  const key = by[order];
  return [...rows].sort((a, b) =>
    key ? key(a).localeCompare(key(b)) : b.season - a.season || a.title.localeCompare(b.title),
  );
}

function fits(row: Row, text: string): boolean {
  const all = [row.title, row.crop_name, row.season, row.series, row.field_name, ...row.treatments]
    .join(" ")
    .toLowerCase();
  return text
    .toLowerCase()
    .split(/\s+/)
    .every((word) => all.includes(word));
}

/** Every trial of the workspace. */
export function TrialList() {
  const { workspace } = useHere();
  const trials = useTrials(workspace.id);
  const [search, setSearch] = useSearchParams();
  const [layer, setLayer] = useState<Layer>("plan");
  const text = search.get("find") ?? "";
  const order = search.get("order") ?? "season";
  const set = (key: string, value: string) =>
    setSearch(
      (now) => {
        if (value) now.set(key, value);
        else now.delete(key);
        return now;
      },
      { replace: true },
    );
  const rows = useMemo(
    () =>
      sorted(
        (trials.data ?? []).filter((row) => fits(row, text)),
        order,
      ),
    [trials.data, text, order],
  );
  const writable = workspace.role !== "viewer";
  return (
    <section aria-labelledby="shelf">
      <div className="mb-3 flex flex-wrap items-end gap-3">
        <h1 id="shelf" className="mr-auto">
          Trials
        </h1>
        <label>
          Find
          <input className="entry" value={text} onChange={(event) => set("find", event.target.value)} />
        </label>
        <label>
          In order of
          <select className="entry" value={order} onChange={(event) => set("order", event.target.value)}>
            {ORDERS.map(([key, name]) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </select>
        </label>
        <label>
          Ribbons show
          <select className="entry" value={layer} onChange={(event) => setLayer(event.target.value as Layer)}>
            {LAYERS.map(([key, name]) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </select>
        </label>
        <button
          type="button"
          className="plain"
          disabled={!rows.length}
          onClick={() =>
            saveCsv("trials.csv", [
              ["title", "crop", "season", "series", "field", "treatments", "strips", "next"],
              ...rows.map((row) => [
                row.title,
                row.crop_name,
                row.season,
                row.series,
                row.field_name,
                row.treatments.join(" / "),
                row.strips.length,
                row.next_note,
              ]),
            ])
          }
        >
          Save as CSV
        </button>
        {writable && (
          <>
            <Link className="plain inline-block" to="/trials/import">
              Bring in a finished trial
            </Link>
            <Link className="act inline-block" to="/trials/new">
              New trial
            </Link>
          </>
        )}
      </div>
      <Waiting query={trials} />
      {trials.data && !rows.length && (
        <p className="sheet p-3">
          {text
            ? "No trial fits that. Clear the search to see all."
            : "No trial yet. Start with a question, or bring in a finished one from a CSV file."}
        </p>
      )}
      <div className="grid gap-3 lg:grid-cols-2">
        {rows.map((trial) => (
          <TrialLine key={trial.id} trial={trial} layer={layer} />
        ))}
      </div>
    </section>
  );
}
