import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type Schemas } from "../../api/client";
import { useTrialChanged } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { may } from "../../app/rights";
import { faultOf, useSaving } from "../../app/saving";
import { Problem } from "../../ui/Problem";
import { Waiting } from "../../ui/Waiting";
import { momentWords, SetupPlaces } from "./SetupPlaces";

/** Trials in the bin: to be restored, or, by an owner, removed for good before their days are over. */
export function Bin() {
  const { workspace } = useHere();
  const bin = useQuery({
    queryKey: ["bin", workspace.id],
    queryFn: () =>
      ask(client.GET("/api/workspaces/{workspace_id}/bin", { params: { path: { workspace_id: workspace.id } } })),
  });
  return (
    <div className="mx-auto max-w-5xl">
      <SetupPlaces />
      <h1>Bin</h1>
      <Waiting query={bin} />
      {bin.data && !bin.data.trials.length && (
        <p className="sheet p-3">
          Empty. A trial is put here from its own page, under “This trial”, and can be restored for {bin.data.days}{" "}
          days.
        </p>
      )}
      <ul className="divide-y divide-base-300">
        {bin.data?.trials.map((trial) => (
          <Binned key={trial.id} trial={trial} />
        ))}
      </ul>
    </div>
  );
}

function Binned({ trial }: { trial: Schemas["BinnedOut"] }) {
  const { workspace } = useHere();
  const cache = useQueryClient();
  const changed = useTrialChanged(trial.id);
  const { save } = useSaving();
  const [sure, setSure] = useState(false);
  const [problem, setProblem] = useState("");
  const path = { workspace_id: workspace.id, binned_id: trial.id };
  async function run(work: () => Promise<unknown>) {
    try {
      await save(work);
      changed();
      await cache.invalidateQueries({ queryKey: ["bin", workspace.id] });
    } catch (error) {
      setProblem(faultOf(error).message);
    }
  }
  return (
    <li className="flex flex-wrap items-center gap-3 py-2">
      <div className="mr-auto min-w-0">
        <p className="font-semibold">
          {trial.title} <span className="muted font-normal">harvest {trial.season}</span>
        </p>
        <p className="muted text-sm">
          {trial.records || "no records"}. Put here by {trial.by} on {momentWords(trial.binned_at)}: {trial.reason}.
          Removed for good on {momentWords(trial.purged_on)}.
        </p>
        <Problem>{problem}</Problem>
      </div>
      <button
        type="button"
        className="act min-h-11"
        onClick={() =>
          void run(() =>
            ask(client.POST("/api/workspaces/{workspace_id}/bin/{binned_id}/restore", { params: { path } })),
          )
        }
      >
        Restore<span className="sr-only"> {trial.title}</span>
      </button>
      {may(workspace, "settings") && (
        <button
          type="button"
          className="plain min-h-11"
          onClick={() =>
            sure
              ? void run(() =>
                  ask(client.DELETE("/api/workspaces/{workspace_id}/bin/{binned_id}", { params: { path } })),
                )
              : setSure(true)
          }
        >
          {sure ? "Yes, for good, with all its records" : "Remove for good"}
          <span className="sr-only"> {trial.title}</span>
        </button>
      )}
    </li>
  );
}
