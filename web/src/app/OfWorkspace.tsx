import type { ReactNode } from "react";
import { useLocation } from "react-router";
import type { Trial } from "../api/client";
import { useHere } from "./Gate";

/** A trial's pages, in the workspace it belongs to: what is read of one workspace never stands under the name of another. */
export function OfWorkspace({ trial, children }: { trial: Trial; children: ReactNode }) {
  const { person, workspace, switchTo } = useHere();
  const place = useLocation();
  if (trial.workspace_id === workspace.id) return children;
  const home = person.workspaces.find((item) => item.id === trial.workspace_id);
  return (
    <section className="sheet m-4 max-w-xl space-y-3 p-4" aria-label="Another workspace">
      <p>
        This trial belongs to <b>{home?.name ?? "another workspace"}</b>, and you are in <b>{workspace.name}</b>.
      </p>
      {home && (
        <button
          type="button"
          className="act min-h-11"
          onClick={() => void switchTo(home.id, place.pathname + place.search)}
        >
          Go to {home.name}
        </button>
      )}
    </section>
  );
}
