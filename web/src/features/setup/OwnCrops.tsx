import { useQueryClient } from "@tanstack/react-query";
import { ask, client } from "../../api/client";
import { useHere } from "../../app/Gate";
import { useSaving } from "../../app/saving";
import { EntryField } from "../../ui/EntryField";
import { ChoiceField } from "../../ui/fields";
import { Problem } from "../../ui/Problem";
import { useForm } from "../../ui/useForm";

/** Crops that the catalogue does not have, each with the relative that lends it everything but its name. */
export function OwnCrops() {
  const { workspace } = useHere();
  const cache = useQueryClient();
  const { save } = useSaving();
  // an answer kept on the device from before crops came with the workspace has none
  const crops = workspace.crops ?? [];
  const own = crops.filter((crop) => crop.relative);
  const known = crops.filter((crop) => !crop.relative);
  const form = useForm({ name: "", relative: known[0]?.key ?? "" }, async (body) => {
    const path = { workspace_id: workspace.id };
    await save(() => ask(client.POST("/api/workspaces/{workspace_id}/crops", { params: { path }, body })));
    await cache.invalidateQueries({ queryKey: ["session"] });
    form.clear();
  });
  const { value: relative, onChange: setRelative, error } = form.of("relative");
  return (
    <form aria-label="A crop of one's own" onSubmit={form.submit} className="sheet mt-2 space-y-3 p-3">
      <p className="muted">
        A crop of your own takes heat units, visits, stages, depths, stands, moisture and bushel weight from its nearest
        relative, and says so wherever it is named.
      </p>
      {own.length > 0 && (
        <ul className="list-disc pl-5">
          {own.map((cropChoice) => (
            <li key={cropChoice.key}>
              {cropChoice.name}, as {cropChoice.relative.toLowerCase()}
            </li>
          ))}
        </ul>
      )}
      <div className="grid grid-cols-2 gap-3">
        <EntryField label="Name of the crop" {...form.of("name")} />
        <ChoiceField
          label="Nearest relative"
          value={relative}
          error={error}
          options={known.map((cropChoice) => [cropChoice.key, cropChoice.name])}
          onCommit={setRelative}
        />
      </div>
      <Problem>{form.trouble}</Problem>
      <button type="submit" className="act min-h-11" disabled={form.busy}>
        Add the crop
      </button>
    </form>
  );
}
