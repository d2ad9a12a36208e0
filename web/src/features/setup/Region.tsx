import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type Schemas } from "../../api/client";
import { useRegions } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { faultOf, useSaving } from "../../app/saving";
import { ChoiceField } from "../../ui/fields";
import { Problem } from "../../ui/Problem";

type Changes = Schemas["RegionChangesIn"];
const LEVELS = [0.05, 0.1, 0.2];
const MOST_FIRST = 8;

/** The workspace's region, and what its people have otherwise: units by quantity, level, paper, writing, crops. */
export function Region() {
  const { workspace } = useHere();
  const cache = useQueryClient();
  const { save } = useSaving();
  const regions = useRegions();
  const [problem, setProblem] = useState("");
  const send = async (body: Schemas["WorkspacePatchIn"]) => {
    setProblem("");
    const path = { workspace_id: workspace.id };
    try {
      await save(() => ask(client.PATCH("/api/workspaces/{workspace_id}", { params: { path }, body })));
      // every number on every page may be written otherwise from here on
      await cache.invalidateQueries();
    } catch (error) {
      setProblem(faultOf(error).message);
    }
  };
  const change = (region_changes: Changes) => void send({ region_changes });
  const own = regions.data?.regions.find((region) => region.key === workspace.region);
  if (!regions.data || !own) return null;
  const levels = [...new Set([...LEVELS, workspace.alpha])].sort((item, other) => item - other);
  return (
    <section aria-label="Units and writing" className="sheet mt-2 space-y-3 p-3">
      <div className="grid gap-3 sm:grid-cols-2">
        <ChoiceField
          label="Region"
          value={workspace.region}
          hint="Another region brings its own units: what was changed below is dropped. Nothing recorded changes."
          options={regions.data.regions.map((region) => [region.key, region.name])}
          onCommit={(region) => void send({ region })}
        />
        <ChoiceField
          label="Significance level of new trials"
          value={String(workspace.alpha)}
          options={levels.map((level) => [String(level), level.toFixed(2)])}
          onCommit={(alpha) => change({ alpha: Number(alpha) })}
        />
        <ChoiceField
          label="Numbers and days"
          value={workspace.writing}
          options={regions.data.writings.map(([key = "", name = ""]) => [key, name])}
          onCommit={(writing) => change({ writing: writing as Changes["writing"] })}
        />
        <ChoiceField
          label="Paper of reports"
          value={workspace.paper}
          options={[
            ["A4", "A4"],
            ["Letter", "Letter"],
          ]}
          onCommit={(paper) => change({ paper: paper as Changes["paper"] })}
        />
      </div>
      <details>
        <summary className="min-h-11 cursor-pointer content-center font-medium">Units, quantity by quantity</summary>
        <p className="muted">Yield, price and stand follow the crop until you choose one unit for all crops here.</p>
        <div className="mt-2 grid gap-3 sm:grid-cols-2 lg:grid-cols-3">
          {regions.data.quantities.map(({ kind, name, units }) => (
            <ChoiceField
              key={kind}
              label={name}
              value={workspace.changed_units[kind] ?? ""}
              options={[
                ["", `as the region has it${usualIn(kind, units, own.units[kind], workspace.currency)}`],
                ...units.map(([code = "", label = ""]): [string, string] => [
                  code,
                  label.startsWith("/") ? workspace.currency + label : label,
                ]),
              ]}
              onCommit={(code) => change({ units: { [kind]: code } })}
            />
          ))}
        </div>
      </details>
      <details>
        <summary className="min-h-11 cursor-pointer content-center font-medium">Crops offered first</summary>
        <CropsFirst change={change} />
      </details>
      <Problem>{problem}</Problem>
    </section>
  );
}

const BY_CROP = ["yield", "price", "density"];

function usualIn(kind: string, units: string[][], code: string | undefined, currency: string): string {
  if (BY_CROP.includes(kind)) return ", by crop";
  const label = units.find(([item]) => item === code)?.[1];
  return label ? ` (${label.startsWith("/") ? currency + label : label})` : "";
}

/** Crops of the catalogue in the order in which they are offered; one that is chosen comes to the top. */
function CropsFirst({ change }: { change: (changes: Changes) => void }) {
  const { workspace } = useHere();
  const crops = workspace.crops.filter((crop) => !crop.relative);
  const toTop = (key: string) => {
    const rest = crops.map((crop) => crop.key).filter((item) => item !== key);
    change({ crops_first: [key, ...rest].slice(0, MOST_FIRST) });
  };
  return (
    <ol className="mt-2 grid gap-1 sm:grid-cols-2">
      {crops.map(({ key, name }, number) => (
        <li key={key} className="flex items-center justify-between gap-2">
          {number + 1}. {name}
          {number > 0 && (
            <button
              type="button"
              className="plain min-h-11"
              aria-label={`Offer ${name} first`}
              onClick={() => toTop(key)}
            >
              first
            </button>
          )}
        </li>
      ))}
    </ol>
  );
}
