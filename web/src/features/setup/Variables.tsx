import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type Schemas } from "../../api/client";
import { useHere } from "../../app/Gate";
import { may } from "../../app/rights";
import { useSaving } from "../../app/saving";
import { EntryField } from "../../ui/EntryField";
import { ChoiceField } from "../../ui/fields";
import { Problem } from "../../ui/Problem";
import { useForm } from "../../ui/useForm";
import { Waiting } from "../../ui/Waiting";
import { SetupPlaces } from "./SetupPlaces";

type Way = Schemas["OwnTraitIn"]["way"];
const WAYS: [Way, string][] = [
  ["number", "A number with its unit"],
  ["rating", "A rating on a scale"],
  ["choice", "A choice between words"],
];
const EMPTY = {
  name: "",
  way: "number",
  unit: "",
  low: "",
  high: "",
  decimals: "",
  better: "",
  words: "",
  crop: "",
  days: "",
};

/** What this workspace measures and rates beside the catalogue, for plans, field book, comparisons and files. */
export function Variables() {
  const { workspace } = useHere();
  const cache = useQueryClient();
  const { save } = useSaving();
  const path = { workspace_id: workspace.id };
  const key = ["own-traits", workspace.id];
  const [problem, setProblem] = useState("");
  const traits = useQuery({
    queryKey: key,
    queryFn: () => ask(client.GET("/api/workspaces/{workspace_id}/own-traits", { params: { path } })),
  });
  const kept = async (fresh: Schemas["OwnTraitOut"][]) => {
    cache.setQueryData(key, fresh);
    await cache.invalidateQueries({ queryKey: ["scouting"] });
    await cache.invalidateQueries({ queryKey: ["trial"] });
  };
  const withdraw = (trait: string) =>
    save(() =>
      ask(
        client.POST("/api/workspaces/{workspace_id}/own-traits/withdraw", { params: { path }, body: { key: trait } }),
      ),
    )
      .then(kept)
      .catch((error: Error) => setProblem(error.message));
  return (
    <div className="mx-auto max-w-5xl">
      <SetupPlaces />
      <h1>Variables of your own</h1>
      <Waiting query={traits} />
      {traits.data && !traits.data.length && (
        <p className="muted">None yet. The catalogue has heights, stems, cover, weeds, pests, disease and lodging.</p>
      )}
      <ul className="divide-y divide-base-300">
        {traits.data?.map((trait) => (
          <li key={trait.key} className="flex flex-wrap items-baseline gap-x-3 py-2">
            <b>{trait.name}</b>
            <span>{trait.words}</span>
            {trait.crop_name && <span className="muted">{trait.crop_name} only</span>}
            {may(workspace, "design") && (
              <button type="button" className="ml-auto underline" onClick={() => void withdraw(trait.key)}>
                Withdraw<span className="sr-only"> {trait.name}</span>
              </button>
            )}
          </li>
        ))}
      </ul>
      <Problem>{problem}</Problem>
      {may(workspace, "design") && <AddVariable onKept={kept} />}
    </div>
  );
}

function AddVariable({ onKept }: { onKept: (fresh: Schemas["OwnTraitOut"][]) => Promise<void> }) {
  const { workspace } = useHere();
  const { save } = useSaving();
  const form = useForm(EMPTY, async ({ words, way, better, ...entries }) => {
    const body = {
      ...entries,
      way: way as Way,
      better: better as Schemas["OwnTraitIn"]["better"],
      words: words.split(/[,;\n]/).map((word) => word.trim()),
    };
    const path = { workspace_id: workspace.id };
    await onKept(
      await save(() => ask(client.POST("/api/workspaces/{workspace_id}/own-traits", { params: { path }, body }))),
    );
    form.clear();
  });
  const { way } = form.entries;
  const crops = workspace.crops ?? [];
  const choice = (name: "way" | "better" | "crop", label: string, options: [string, string][]) => (
    <ChoiceField
      label={label}
      value={form.entries[name]}
      error={form.of(name).error}
      options={options}
      onCommit={(value) => form.put({ [name]: value })}
    />
  );
  return (
    <form aria-label="A variable of one's own" onSubmit={form.submit} className="sheet mt-4 space-y-3 p-3">
      <h2>Add a variable</h2>
      <div className="grid items-start gap-3 sm:grid-cols-2">
        <EntryField label="Name" {...form.of("name")} />
        {choice("way", "Recorded as", WAYS)}
        {way === "number" && <EntryField label="Unit, if it has one" {...form.of("unit")} />}
        {way === "number" && <EntryField label="Decimals" inputMode="numeric" {...form.of("decimals")} />}
        {way !== "choice" && <EntryField label="Lowest value" {...form.of("low")} />}
        {way !== "choice" && <EntryField label="Highest value" {...form.of("high")} />}
        {way === "rating" && (
          <EntryField label="Words at the two ends" hint="Such as: none, all" {...form.of("words")} />
        )}
        {way === "choice" && (
          <EntryField label="Words to choose between" hint="Such as: none, patches, everywhere" {...form.of("words")} />
        )}
        {way !== "choice" &&
          choice("better", "The better end", [
            ["", "neither"],
            ["more", "more is better"],
            ["less", "less is better"],
          ])}
        {choice("crop", "For", [["", "all crops"], ...crops.map((crop): [string, string] => [crop.key, crop.name])])}
        <EntryField
          label="Due, days after sowing"
          hint="Empty: whenever one likes."
          inputMode="numeric"
          {...form.of("days")}
        />
      </div>
      <p className="muted text-sm">
        Numbers and ratings are compared over strips and can be what a trial is judged by; words are counted. What was
        recorded keeps its definition for good: another unit or scale is another variable.
      </p>
      <Problem>{form.trouble}</Problem>
      <button type="submit" className="act min-h-11" disabled={form.busy}>
        Add it
      </button>
    </form>
  );
}
