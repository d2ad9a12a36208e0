import { useQueryClient } from "@tanstack/react-query";
import { ask, client } from "../../api/client";
import { useBackups } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { useSaving } from "../../app/saving";
import { Problem } from "../../ui/Problem";
import { Waiting } from "../../ui/Waiting";
import { momentWords, SetupPlaces } from "./SetupPlaces";

const KINDS: Record<string, string> = {
  daily: "daily",
  "by-hand": "asked for",
  "before-migration": "before a new version, database only",
};

/** How backups stand, those that are kept, and one made now. */
export function Backups() {
  const { workspace } = useHere();
  const cache = useQueryClient();
  const { save } = useSaving();
  const backups = useBackups(workspace.id, true);
  const path = { workspace_id: workspace.id };
  const backUp = async () => {
    const key = ["backups", workspace.id];
    await save(() => ask(client.POST("/api/workspaces/{workspace_id}/backups", { params: { path } })))
      .then((now) => cache.setQueryData(key, now))
      .catch(() => undefined);
  };
  const state = backups.data;
  return (
    <div className="mx-auto max-w-5xl">
      <SetupPlaces />
      <h1>Backups</h1>
      <Waiting query={backups} />
      {state && (
        <>
          <p className={state.well ? "" : "caution"} role="status">
            {state.last_good_at && (
              <>
                The last good one is of <b>{momentWords(state.last_good_at)}</b>.{" "}
              </>
            )}
            {state.words}
          </p>
          <p className="muted my-2">
            A backup holds everything of this installation: records with their history, photographs, yield logs, and the
            key. One is made every day; seven days, four weeks and six months are kept. Whoever has the file can read
            it.
          </p>
          {state.may_take ? (
            <>
              <Problem>{state.trouble}</Problem>
              <button type="button" className="act min-h-11" disabled={state.under_way} onClick={() => void backUp()}>
                {state.under_way ? "Backing up …" : "Back up now"}
              </button>
              <Kept />
            </>
          ) : (
            <p>
              This installation holds workspaces that you do not own, so its owner takes the backups away:{" "}
              <code>manage.py backup FILE</code>.
            </p>
          )}
          <h2 className="mt-6">On a new machine</h2>
          <p>
            Install Cultrix, then <code>manage.py restore FILE</code>, then <code>make start</code>. Everything is as it
            was at the moment of the backup; everybody signs in again.
          </p>
        </>
      )}
    </div>
  );
}

function Kept() {
  const { workspace } = useHere();
  const backups = useBackups(workspace.id, false);
  if (!backups.data?.kept.length) return <p className="muted mt-3">None is kept yet.</p>;
  return (
    <table className="figures mt-4">
      <thead>
        <tr>
          <th>Made</th>
          <th>Why</th>
          <th className="num">Size</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {backups.data.kept.map((item) => (
          <tr key={item.name}>
            <td>{momentWords(item.made_at)}</td>
            <td>{KINDS[item.kind] ?? item.kind}</td>
            <td className="num">{(item.size_bytes / 1e6).toFixed(1)} MB</td>
            <td>
              <a
                className="plain min-h-11 content-center"
                href={`/api/workspaces/${workspace.id}/backups/${item.name}`}
                download
              >
                Download<span className="sr-only"> the backup of {momentWords(item.made_at)}</span>
              </a>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
