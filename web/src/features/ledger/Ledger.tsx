import { Link, useSearchParams } from "react-router";
import type { Schemas } from "../../api/client";
import { askLedger, type LedgerAsked, useLedger, usePortfolio } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { saveCsv } from "../../ui/csv";
import { Waiting } from "../../ui/Waiting";
import { askedOf, FILTERS, ORDERS } from "./entries";
import { LedgerRows } from "./LedgerRows";

const PAGE = 100;
const MOST_AT_ONCE = 1_000;

/** Everything tried: ranked by what it returned, losers and looks shown as what they are. */
export function Ledger() {
  const { workspace } = useHere();
  const [search, setSearch] = useSearchParams();
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
  const page = Math.max(1, Number(search.get("page")) || 1);
  const asked = askedOf(search);
  const ledger = useLedger(workspace.id, page > 1 ? { ...asked, offset: (page - 1) * PAGE } : asked);
  const portfolio = usePortfolio(workspace.id);
  if (!ledger.data) return <Waiting query={ledger} />;
  const result = ledger.data;
  const chosen = FILTERS.some(([key]) => search.get(key));
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
                {(result.choices[key] ?? []).map((item) => (
                  <option key={item} value={item}>
                    {item}
                  </option>
                ))}
              </select>
            </label>
          ))}
          <label className="flex items-center gap-1">
            Ordered by
            <select
              className="entry w-auto"
              value={asked.order ?? "net"}
              onChange={(event) => set("order", event.target.value)}
            >
              {ORDERS.map(([key, name]) => (
                <option key={key} value={key}>
                  {name}
                </option>
              ))}
            </select>
          </label>
          <button type="button" className="plain" onClick={() => void exportAll(workspace.id, asked)}>
            Save as CSV
          </button>
        </div>
        {result.total === 0 && !chosen ? (
          <p className="mt-3">
            Nothing is tried yet. <Link to="/trials/new">Begin a trial</Link>, or{" "}
            <Link to="/trials/import">bring one in</Link>.
          </p>
        ) : (
          <LedgerRows rows={result.entries} unit={result.unit} span={result.span} />
        )}
        {result.recalculating > 0 && (
          <p className="muted mt-2 text-sm">{result.recalculating} trials are being recalculated.</p>
        )}
        {result.total > PAGE && (
          <nav aria-label="Pages" className="mt-3 flex items-center gap-3">
            <button type="button" className="plain" disabled={page < 2} onClick={() => set("page", String(page - 1))}>
              Before
            </button>
            <span>
              {(page - 1) * PAGE + 1} to {(page - 1) * PAGE + result.entries.length} of {result.total} comparisons
            </span>
            <button
              type="button"
              className="plain"
              disabled={page * PAGE >= result.total}
              onClick={() => set("page", String(page + 1))}
            >
              After
            </button>
          </nav>
        )}
      </div>
      <aside aria-label="What the farm knows" className="space-y-4">
        <p>
          Ranked by the gain in net return over what the farm did, with intervals. One strip a treatment is a look and
          has no rank; what lost money stays in the list.
        </p>
        {result.luck && <p className="caution">{result.luck}</p>}
        <Combined rows={portfolio.data?.combined ?? []} />
        <Lessons rows={portfolio.data?.lessons ?? []} />
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

/** All that fit, not the page in sight. */
async function exportAll(workspaceId: string, asked: LedgerAsked) {
  const rows: Schemas["LedgerEntryOut"][] = [];
  let unit = "";
  for (let offset = 0, total = 1; offset < total; offset += MOST_AT_ONCE) {
    const part = await askLedger(workspaceId, { ...asked, offset, limit: MOST_AT_ONCE });
    rows.push(...part.entries);
    ({ total, unit } = part);
  }
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
