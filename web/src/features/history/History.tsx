import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Link, useParams, useSearchParams } from "react-router";
import { ask, client, type Schemas } from "../../api/client";
import { useTrial } from "../../api/queries";
import { saveCsv } from "../../ui/csv";
import { Waiting } from "../../ui/Waiting";
import { writtenMoment } from "../../ui/writing";

type Entry = Schemas["HistoryEntryOut"];
const PAGE = 50;
const changeWords = (entry: Entry) =>
  entry.changes.map(({ name, before, after }) => `${name}: ${before ? `${before} → ` : ""}${after || "nothing"}`);

/** Who changed what on a trial, when, from what to what, and why. */
export function History() {
  const { trialId = "" } = useParams();
  const [search, setSearch] = useSearchParams();
  const trial = useTrial(trialId);
  const kind = search.get("kind") ?? "";
  const page = Math.max(1, Number(search.get("page")) || 1);
  const history = useQuery({
    queryKey: ["history", trialId, kind, page],
    queryFn: () =>
      ask(
        client.GET("/api/trials/{trial_id}/history", {
          params: { path: { trial_id: trialId }, query: { kind, offset: (page - 1) * PAGE, limit: PAGE } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  const set = (next: Record<string, string>) => setSearch(next, { replace: true });
  const entries = history.data?.entries ?? [];
  const total = history.data?.total ?? 0;
  return (
    <div className="mx-auto max-w-5xl">
      <div className="flex flex-wrap items-end gap-3">
        <h1 className="mr-auto">History of {trial.data?.title ?? "the trial"}</h1>
        <label>
          Of
          <select className="entry" value={kind} onChange={(event) => set({ kind: event.target.value })}>
            <option value="">everything</option>
            {history.data?.kinds.map((item) => (
              <option key={item.kind} value={item.kind}>
                {item.name}
              </option>
            ))}
          </select>
        </label>
        <button
          type="button"
          className="plain"
          disabled={!entries.length}
          onClick={() =>
            saveCsv("history.csv", [
              ["when", "by", "what", "strip", "done", "changes", "reason"],
              ...entries.map((entry) => [
                entry.at,
                entry.by,
                entry.what,
                entry.strip ?? "",
                entry.action,
                changeWords(entry).join("; "),
                entry.reason,
              ]),
            ])
          }
        >
          Save as CSV
        </button>
        <Link className="plain" to={`/trials/${trialId}/question`}>
          Back to the trial
        </Link>
      </div>
      <Waiting query={history} />
      {history.data && !entries.length && <p className="sheet mt-2 p-3">Nothing of that kind was done here.</p>}
      <ol className="mt-2 divide-y divide-base-300">
        {entries.map((entry) => (
          <li
            key={`${entry.at}${entry.kind}${entry.strip}${changeWords(entry).join()}`}
            className="grid gap-x-4 py-1.5 sm:grid-cols-[11rem_1fr]"
          >
            <span className="muted">{writtenMoment(entry.at, { year: true })}</span>
            <div className="min-w-0">
              <p>
                <b>{entry.by || "The application"}</b> {entry.action} {entry.what.toLowerCase()}
                {entry.strip !== null && ` of strip ${entry.strip}`}
                {entry.reason && !["recorded", "changed"].includes(entry.reason) && (
                  <span className="muted">, {entry.reason}</span>
                )}
              </p>
              {entry.changes.length > 0 && <p className="break-words text-sm">{changeWords(entry).join(" · ")}</p>}
            </div>
          </li>
        ))}
      </ol>
      {total > PAGE && (
        <nav aria-label="Pages" className="mt-3 flex items-center gap-3">
          <button
            type="button"
            className="plain"
            disabled={page < 2}
            onClick={() => set({ kind, page: String(page - 1) })}
          >
            Later
          </button>
          <span>
            {(page - 1) * PAGE + 1} to {(page - 1) * PAGE + entries.length} of {total}
          </span>
          <button
            type="button"
            className="plain"
            disabled={page * PAGE >= total}
            onClick={() => set({ kind, page: String(page + 1) })}
          >
            Earlier
          </button>
        </nav>
      )}
    </div>
  );
}
