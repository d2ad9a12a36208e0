import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client } from "../../api/client";
import { useFields } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { may } from "../../app/rights";
import { useSaving } from "../../app/saving";
import { Dialog } from "../../ui/Dialog";
import { EntryField } from "../../ui/EntryField";
import { Problem } from "../../ui/Problem";
import { useForm } from "../../ui/useForm";
import { Waiting } from "../../ui/Waiting";
import { SetupPlaces } from "./SetupPlaces";

const counted = (number: number, word: string) => `${number} ${word}${number === 1 ? "" : "s"}`;

/** Farms of the workspace: everything of one taken out as open formats, and, by an owner, erased at its request. */
export function Leaving() {
  const { workspace } = useHere();
  const fields = useFields(workspace.id);
  const [erasing, setErasing] = useState("");
  const [done, setDone] = useState("");
  const farms = [...new Set((fields.data ?? []).map((field) => field.farm).filter(Boolean))];
  return (
    <div className="mx-auto max-w-5xl">
      <SetupPlaces />
      <h1>Farms</h1>
      <p className="muted">
        What a farm has here is the farm's. It can be taken out whole at any time: fields as GeoJSON, trials as Data
        Packages with their history, photographs, files and logs.
      </p>
      <Waiting query={fields} />
      {fields.data && !farms.length && <p className="sheet mt-2 p-3">No field names its farm yet.</p>}
      <ul className="mt-2 divide-y divide-base-300">
        {farms.map((farm) => (
          <li key={farm} className="flex flex-wrap items-center gap-3 py-2">
            <b className="mr-auto">{farm}</b>
            <span className="muted">{(fields.data ?? []).filter((field) => field.farm === farm).length} fields</span>
            <a
              className="plain"
              href={`/api/workspaces/${workspace.id}/farm-archive?farm=${encodeURIComponent(farm)}`}
              download
            >
              Take everything out<span className="sr-only"> of {farm}</span>
            </a>
            {may(workspace, "settings") && (
              <button type="button" className="plain" onClick={() => setErasing(farm)}>
                Erase<span className="sr-only"> {farm}</span>
              </button>
            )}
          </li>
        ))}
      </ul>
      {done && (
        <p role="status" className="sheet mt-2 p-3">
          {done}
        </p>
      )}
      {erasing && (
        <Erase
          farm={erasing}
          onClose={() => setErasing("")}
          onDone={(words) => {
            setErasing("");
            setDone(words);
          }}
        />
      )}
    </div>
  );
}

function Erase({ farm, onClose, onDone }: { farm: string; onClose: () => void; onDone: (words: string) => void }) {
  const { workspace } = useHere();
  const cache = useQueryClient();
  const { save } = useSaving();
  const path = { workspace_id: workspace.id };
  const look = useQuery({
    queryKey: ["erasing", workspace.id, farm],
    queryFn: () =>
      ask(client.GET("/api/workspaces/{workspace_id}/farm-erasing", { params: { path, query: { farm } } })),
    staleTime: 0,
  });
  const form = useForm({ typed: "", reason: "" }, async (entries) => {
    const told = await save(() =>
      ask(client.POST("/api/workspaces/{workspace_id}/farm-erasing", { params: { path }, body: { farm, ...entries } })),
    );
    await cache.invalidateQueries();
    onDone(`Erased: ${counted(told.trials, "trial")}, ${counted(told.fields, "field")}.`);
  });
  return (
    <Dialog title={`Erase ${farm}`} onClose={onClose}>
      <Waiting query={look} />
      {look.data && (
        <form onSubmit={form.submit} className="space-y-3">
          <p className="caution">
            {counted(look.data.trials, "trial")} with all records, and {counted(look.data.fields, "field")}, are removed
            for good,
            {look.data.people.length > 0 && ` with the parts of ${look.data.people.join(", ")},`} and nobody can bring
            them back from here. Backups made before hold them until they are rotated out.
          </p>
          <p>
            What the workspace has learned from them stays as sums without a name. The history keeps digests, so that it
            can still be verified.
          </p>
          <EntryField label={`Type ${farm} to erase it`} {...form.of("typed")} />
          <EntryField label="Reason, without names" {...form.of("reason")} />
          <Problem>{form.trouble}</Problem>
          <button type="submit" className="act min-h-11" disabled={form.busy}>
            Erase the farm
          </button>
        </form>
      )}
    </Dialog>
  );
}
