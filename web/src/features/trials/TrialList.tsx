import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import { askTrials, type TrialsAsked, useTrials } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { may } from "../../app/rights";
import { saveCsv } from "../../ui/csv";
import { LAYERS, type Layer } from "../../ui/Ribbon";
import { Waiting } from "../../ui/Waiting";
import { TrialLine } from "./TrialLine";

type Order = NonNullable<TrialsAsked["order"]>;
const ORDERS: [Order, string][] = [
  ["season", "season, latest first"],
  ["title", "title"],
  ["crop", "crop"],
  ["next", "what comes next"],
];
const PAGE = 50;
const MOST_AT_ONCE = 200;

/** Every trial of the workspace. */
export function TrialList() {
  const { workspace } = useHere();
  const [search, setSearch] = useSearchParams();
  const [layer, setLayer] = useState<Layer>("plan");
  const text = search.get("find") ?? "";
  const order = ORDERS.find(([key]) => key === search.get("order"))?.[0] ?? "season";
  const archived = search.get("archived") === "yes";
  const page = Math.max(1, Number(search.get("page")) || 1);
  const asked: TrialsAsked = {
    ...(text && { find: text }),
    ...(order !== "season" && { order }),
    ...(layer !== "plan" && { layer }),
    ...(archived && { archived }),
  };
  const trials = useTrials(workspace.id, page > 1 ? { ...asked, offset: (page - 1) * PAGE } : asked);
  const set = (key: string, value: string) =>
    setSearch(
      (now) => {
        if (value) now.set(key, value);
        else now.delete(key);
        if (key !== "page") now.delete("page");
        return now;
      },
      { replace: true },
    );
  const rows = trials.data?.rows ?? [];
  const total = trials.data?.total ?? 0;
  const writable = may(workspace, "design");
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
        <label className="flex min-h-11 items-center gap-1.5">
          <input
            type="checkbox"
            checked={archived}
            onChange={(event) => set("archived", event.target.checked ? "yes" : "")}
          />
          Archived
        </label>
        <button
          type="button"
          className="plain"
          disabled={!rows.length}
          onClick={() => void exportAll(workspace.id, asked)}
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
          {archived
            ? "Nothing is archived. A trial goes there from its own page, under “This trial”."
            : text
              ? "No trial fits that. Clear the search to see all."
              : "No trial yet. Start with a question, or bring in a finished one from a CSV file."}
        </p>
      )}
      <div className="grid gap-3 lg:grid-cols-2">
        {rows.map((trial) => (
          <TrialLine key={trial.id} trial={trial} layer={layer} />
        ))}
      </div>
      {total > PAGE && (
        <nav aria-label="Pages" className="mt-3 flex items-center gap-3">
          <button type="button" className="plain" disabled={page < 2} onClick={() => set("page", String(page - 1))}>
            Earlier
          </button>
          <span>
            {(page - 1) * PAGE + 1} to {(page - 1) * PAGE + rows.length} of {total} trials
          </span>
          <button
            type="button"
            className="plain"
            disabled={page * PAGE >= total}
            onClick={() => set("page", String(page + 1))}
          >
            Later
          </button>
        </nav>
      )}
    </section>
  );
}

/** All that fit, not the page in sight. */
async function exportAll(workspaceId: string, asked: TrialsAsked) {
  const rows = [];
  for (let offset = 0, total = 1; offset < total; offset += MOST_AT_ONCE) {
    const part = await askTrials(workspaceId, { ...asked, offset, limit: MOST_AT_ONCE });
    rows.push(...part.rows);
    total = part.total;
  }
  saveCsv("trials.csv", [
    ["title", "crop", "season", "series", "field", "treatments", "strips", "next"],
    ...rows.map((row) => [
      row.title,
      row.crop_name,
      row.season,
      row.series,
      row.field_name,
      row.treatments.join(" / "),
      row.ribbon.blocks.length,
      row.next_note,
    ]),
  ]);
}
