import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type Schemas } from "../../api/client";
import { useHere } from "../../app/Gate";
import { faultOf, useSaving } from "../../app/saving";
import { TextField } from "../../ui/fields";
import { Problem } from "../../ui/Problem";
import { useForm } from "../../ui/useForm";
import { NEW_WORKSPACE, WorkspaceFields } from "../start/WorkspaceFields";
import { Practice } from "../today/Practice";
import { OwnCrops } from "./OwnCrops";
import { Region } from "./Region";
import { SetupPlaces } from "./SetupPlaces";

type Changes = Schemas["WorkspacePatchIn"];

/** What holds in a workspace, for its owners: name, currency, time zone, units, safety; and how another one is made. */
export function WorkspacePage() {
  const { workspace } = useHere();
  return (
    <div className="mx-auto max-w-5xl">
      <SetupPlaces />
      <h1>{workspace.name}</h1>
      <Held />
      <h2 className="mt-6">Units and writing</h2>
      <Region />
      <h2 className="mt-6">Crops of your own</h2>
      <OwnCrops />
      <h2 className="mt-6">Practice</h2>
      <Practice />
      <h2 className="mt-6">Another workspace</h2>
      <Another />
    </div>
  );
}

function Held() {
  const { workspace } = useHere();
  const cache = useQueryClient();
  const { save } = useSaving();
  const [problem, setProblem] = useState<{ field: string | null; message: string } | null>(null);
  const change = async (body: Changes) => {
    setProblem(null);
    const path = { workspace_id: workspace.id };
    try {
      await save(() => ask(client.PATCH("/api/workspaces/{workspace_id}", { params: { path }, body })));
      await cache.invalidateQueries({ queryKey: ["session"] });
    } catch (error) {
      setProblem(faultOf(error));
    }
  };
  const wrong = (field: string) => (problem?.field === field ? problem.message : null);
  return (
    <div className="sheet mt-2 grid gap-3 p-3 sm:grid-cols-2">
      <TextField label="Name" value={workspace.name} error={wrong("name")} onCommit={(name) => void change({ name })} />
      <TextField
        label="Currency"
        value={workspace.currency}
        error={wrong("currency")}
        hint="Stays once amounts are written in it."
        onCommit={(currency) => void change({ currency })}
      />
      <TextField
        label="Time zone"
        value={workspace.time_zone}
        error={wrong("time_zone")}
        hint="Days and hours are those of this place."
        onCommit={(time_zone) => void change({ time_zone })}
      />
      <TextField
        label="Days in the bin"
        inputMode="numeric"
        value={String(workspace.bin_days ?? 90)}
        error={wrong("bin_days")}
        hint="From 30 on; then a trial is removed for good."
        onCommit={(text) => void change({ bin_days: Number(text) || 0 })}
      />
      <TextField
        label="Years that trials are kept"
        inputMode="numeric"
        value={workspace.keep_years ? String(workspace.keep_years) : ""}
        error={wrong("keep_years")}
        hint="Older ones go into the bin by themselves. Empty: for as long as the workspace is there."
        onCommit={(text) => void change({ keep_years: Number(text) || 0 })}
      />
      <label className="flex min-h-11 items-center gap-2 sm:col-span-2">
        <input
          type="checkbox"
          checked={workspace.leads_need_second_factor}
          onChange={(event) => void change({ leads_need_second_factor: event.target.checked })}
        />
        Owners and advisers sign in with a second factor
      </label>
      <div className="sm:col-span-2">
        <Problem>{wrong("leads_need_second_factor")}</Problem>
      </div>
    </div>
  );
}

function Another() {
  const cache = useQueryClient();
  const { save } = useSaving();
  const [result, setMade] = useState("");
  const form = useForm(NEW_WORKSPACE, async ({ workspace, ...entries }) => {
    const body = { ...entries, name: workspace };
    cache.setQueryData(["session"], await save(() => ask(client.POST("/api/workspaces", { body }))));
    setMade(workspace);
    form.clear();
  });
  return (
    <form onSubmit={form.submit} className="sheet max-w-xl space-y-3 p-3">
      <p className="muted">Nothing in it is seen from this one. You lead it, and switch between them at the top.</p>
      <WorkspaceFields of={form.of} />
      <Problem>{form.trouble}</Problem>
      <button type="submit" className="act min-h-11" disabled={form.busy}>
        Make the workspace
      </button>
      {result && <p role="status">{result} is there. Choose it at the top.</p>}
    </form>
  );
}
