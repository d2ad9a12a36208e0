import { useMemo } from "react";
import { Link, useSearchParams } from "react-router";
import type { Schemas } from "../../api/client";
import { useLedger } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { saveCsv } from "../../ui/csv";
import { Waiting } from "../../ui/Waiting";
import { choicesOf, type Entry, FILTERS, fitting, ordered } from "./entries";
import { LedgerRows } from "./LedgerRows";

const ORDERS: [string, string][] = [
  ["net", "net return"],
  ["season", "year, latest first"],
  ["crop", "crop"],
];

/** Everything tried: ranked by what it returned, losers and looks shown as what they are. */
export function Ledger() {
  const { workspace } = useHere();
  const ledger = useLedger(workspace.id);
  const [search, setSearch] = useSearchParams();
  const set = (key: string, value: string) =>
    setSearch(
      (now) => {
        if (value) now.set(key, value);
        else now.delete(key);
        return now;
      },
      { replace: true },
    );
  const entries = ledger.data?.entries ?? [];
  const order = search.get("order") ?? "net";
  const rows = useMemo(() => ordered(fitting(entries, search), order), [entries, search, order]);
  if (!ledger.data) return <Waiting query={ledger} />;
  const found = ledger.data;
  return (
    <div className="grid gap-6 lg:grid-cols-[minmax(0,1fr)_21rem]">
      <div className="min-w-0">
        <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
          <h1>Ledger</h1>
          {FILTERS.map(([key, name]) => (
            <label key={key} className="flex items-center gap-1">
              {name}
              <select
                className="entry w-auto"
                value={search.get(key) ?? ""}
                onChange={(event) => set(key, event.target.value)}
              >
                <option value="">all</option>
                {choicesOf(entries, key).map((one) => (
                  <option key={one} value={one}>
                    {one}
                  </option>
                ))}
              </select>
            </label>
          ))}
          <label className="flex items-center gap-1">
            Ordered by
            <select className="entry w-auto" value={order} onChange={(event) => set("order", event.target.value)}>
              {ORDERS.map(([key, name]) => (
                <option key={key} value={key}>
                  {name}
                </option>
              ))}
            </select>
          </label>
          <button type="button" className="plain" onClick={() => exportRows(rows, found.unit)}>
            Save as CSV
          </button>
        </div>
        {entries.length === 0 ? (
          <p className="mt-3">
            Nothing is tried yet. <Link to="/trials/new">Begin a trial</Link>, or{" "}
            <Link to="/trials/import">bring one in</Link>.
          </p>
        ) : (
          <LedgerRows rows={rows} unit={found.unit} />
        )}
      </div>
      <aside aria-label="What the farm knows" className="space-y-4">
        <p>
          Ranked by the gain in net return over what the farm did, with intervals. One strip a treatment is a look and
          has no rank; what lost money stays in the list.
        </p>
        {found.luck && <p className="caution">{found.luck}</p>}
        <Combined rows={found.combined} />
        <Lessons rows={found.lessons} />
      </aside>
    </div>
  );
}

function Combined({ rows }: { rows: Schemas["CombinedOut"][] }) {
  if (!rows.length) return null;
  return (
    <section aria-label="Over years">
      <h2>The same question over years</h2>
      {rows.map((row) => (
        <div key={`${row.series} ${row.name}`} className="mt-1.5 border-l-4 border-base-content pl-2.5">
          <p>
            <Link className="worked" to={`/trials/${row.trial_id}/verdict?sheet=series`}>
              {row.series}
            </Link>
            {row.name && <b>: {row.name}</b>}
          </p>
          {row.net && (
            <p>
              {row.net.text}
              {row.lower && row.upper && ` (${row.lower.text} to ${row.upper.text})`}, {row.call_words}, {row.years}{" "}
              site-years
            </p>
          )}
          <p className="muted text-sm">{row.problem || row.held}</p>
        </div>
      ))}
    </section>
  );
}

function Lessons({ rows }: { rows: Schemas["LessonOut"][] }) {
  if (!rows.length) return null;
  return (
    <section aria-label="What the farm has learned">
      <h2>What the farm has learned</h2>
      {rows.map((row) => (
        <div key={`${row.crop} ${row.about}`} className="mt-1.5">
          <p>
            <b>{row.crop}.</b> {row.about}: {row.words}
          </p>
          <p className="muted text-sm">{row.used}</p>
        </div>
      ))}
    </section>
  );
}

function exportRows(rows: Entry[], unit: string) {
  saveCsv("ledger.csv", [
    [
      "rank",
      "trial",
      "crop",
      "year",
      "field",
      "comparison",
      "standing",
      `net gain ${unit}`,
      "lower",
      "upper",
      "chance",
      "call",
      "yield",
      "said",
    ],
    ...rows.map((row) => [
      row.rank,
      row.title,
      row.crop_name,
      row.season,
      row.field,
      row.name,
      row.standing,
      row.net?.value ?? null,
      row.lower?.value ?? null,
      row.upper?.value ?? null,
      row.chance,
      row.call_words,
      row.yield_,
      row.said,
    ]),
  ]);
}
