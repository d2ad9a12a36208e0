import { keepPreviousData, useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { ask, client, type Schemas } from "../../api/client";
import { useTrial } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { saveCsv } from "../../ui/csv";
import { Waiting } from "../../ui/Waiting";
import { SetupPlaces } from "../setup/SetupPlaces";
import { changeWords, Entries } from "./Entries";

const PAGE = 50;
const AT_ONCE = 200; // of a file
type Asked = { kind: string; by: string; offset: number; limit: number };

/** Who changed what on a trial, when, from what to what, and why. */
export function History() {
  const { trialId = "" } = useParams();
  const trial = useTrial(trialId);
  return (
    <HistoryPages
      title={`History of ${trial.data?.title ?? "the trial"}`}
      of={trialId}
      read={(query) =>
        ask(client.GET("/api/trials/{trial_id}/history", { params: { path: { trial_id: trialId }, query } }))
      }
    >
      <Link className="plain" to={`/trials/${trialId}/question`}>
        Back to the trial
      </Link>
    </HistoryPages>
  );
}

/** Who signed in, was let in, took data out, and what was changed of what belongs to no trial. */
export function WorkspaceHistory() {
  const { workspace } = useHere();
  return (
    <>
      <div className="mx-auto max-w-5xl">
        <SetupPlaces />
      </div>
      <HistoryPages
        title={`History of ${workspace.name}`}
        of={workspace.id}
        read={(query) =>
          ask(
            client.GET("/api/workspaces/{workspace_id}/history", {
              params: { path: { workspace_id: workspace.id }, query },
            }),
          )
        }
      />
    </>
  );
}

type Props = {
  title: string;
  /** The trial or workspace by its id. */
  of: string;
  read: (asked: Asked) => Promise<Schemas["HistoryOut"]>;
  children?: ReactNode;
};

function HistoryPages({ title, of, read, children }: Props) {
  const { workspace } = useHere();
  const [search, setSearch] = useSearchParams();
  const kind = search.get("kind") ?? "";
  const by = search.get("by") ?? "";
  const page = Math.max(1, Number(search.get("page")) || 1);
  const people = useQuery({
    queryKey: ["people", workspace.id],
    queryFn: () =>
      ask(client.GET("/api/workspaces/{workspace_id}/people", { params: { path: { workspace_id: workspace.id } } })),
  });
  const history = useQuery({
    queryKey: ["history", of, kind, by, page],
    queryFn: () => read({ kind, by, offset: (page - 1) * PAGE, limit: PAGE }),
    placeholderData: keepPreviousData,
  });
  /** All of what is asked for, not this page of it alone. */
  async function saveAll() {
    const all: Schemas["HistoryEntryOut"][] = [];
    for (let offset = 0; offset < total; offset += AT_ONCE)
      all.push(...(await read({ kind, by, offset, limit: AT_ONCE })).entries);
    saveCsv("history.csv", [
      ["when", "by", "what", "strip", "done", "changes", "reason"],
      ...all.map((entry) => [
        entry.at,
        entry.by,
        entry.what,
        entry.strip ?? "",
        entry.action,
        changeWords(entry).join("; "),
        entry.reason,
      ]),
    ]);
  }
  const set = (next: Record<string, string>) => setSearch(next, { replace: true });
  const entries = history.data?.entries ?? [];
  const total = history.data?.total ?? 0;
  return (
    <div className="mx-auto max-w-5xl">
      <div className="flex flex-wrap items-end gap-3">
        <h1 className="mr-auto">{title}</h1>
        <label>
          Of
          <select className="entry" value={kind} onChange={(event) => set({ kind: event.target.value, by })}>
            <option value="">everything</option>
            {history.data?.kinds.map((item) => (
              <option key={item.kind} value={item.kind}>
                {item.name}
              </option>
            ))}
          </select>
        </label>
        <label>
          By
          <select className="entry" value={by} onChange={(event) => set({ kind, by: event.target.value })}>
            <option value="">everybody</option>
            {people.data?.map((person) => (
              <option key={person.username} value={person.username}>
                {person.name}
              </option>
            ))}
          </select>
        </label>
        <button type="button" className="plain" disabled={!entries.length} onClick={() => void saveAll()}>
          Save as CSV
        </button>
        {children}
      </div>
      <Waiting query={history} />
      {history.data && !entries.length && <p className="sheet mt-2 p-3">Nothing of that kind was done here.</p>}
      <Entries entries={entries} />
      {total > PAGE && (
        <nav aria-label="Pages" className="mt-3 flex items-center gap-3">
          <button
            type="button"
            className="plain"
            disabled={page < 2}
            onClick={() => set({ kind, by, page: String(page - 1) })}
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
            onClick={() => set({ kind, by, page: String(page + 1) })}
          >
            Earlier
          </button>
        </nav>
      )}
    </div>
  );
}
