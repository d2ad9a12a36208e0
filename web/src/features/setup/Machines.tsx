import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { ask, client, type Schemas } from "../../api/client";
import { useCatalogue, useMachines } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { may } from "../../app/rights";
import { faultOf, useSaving } from "../../app/saving";
import { ChoiceField, QuantityField, TextField } from "../../ui/fields";
import { Problem } from "../../ui/Problem";
import { blankIn, useReaderUnits } from "../../ui/readerUnits";

/** Machines that work in strips; their widths decide how wide a strip can be. */
export function Machines() {
  const reader = useReaderUnits();
  const { workspace } = useHere();
  const machines = useMachines(workspace.id);
  const catalogue = useCatalogue();
  const cache = useQueryClient();
  const { save } = useSaving();
  const blank: Schemas["MachineIn"] = {
    name: "",
    kind: "planter",
    width: blankIn(reader, "strip_width"),
  };
  const [draft, setDraft] = useState(blank);
  const [problem, setProblem] = useState<{ field: string | null; message: string } | null>(null);
  const wrong = (name: string) => (problem?.field === name ? problem.message : null);

  async function add(event: FormEvent) {
    event.preventDefault();
    try {
      await save(() =>
        ask(
          client.POST("/api/workspaces/{workspace_id}/machines", {
            params: { path: { workspace_id: workspace.id } },
            body: draft,
          }),
        ),
      );
      setDraft({ ...blank, kind: draft.kind });
      setProblem(null);
      void cache.invalidateQueries({ queryKey: ["machines"] });
    } catch (error) {
      setProblem(faultOf(error));
    }
  }

  return (
    <section aria-labelledby="machines">
      <h1 id="machines">Machines</h1>
      <ul className="sheet divide-y divide-base-300">
        {machines.data?.map((machine) => (
          <li key={machine.id} className="flex justify-between gap-3 px-2.5 py-1.5">
            <span className="font-medium">{machine.name}</span>
            <span className="muted">
              {machine.kind_name}, {machine.width.shown}
            </span>
          </li>
        ))}
        {machines.data && !machines.data.length && (
          <li className="muted px-2.5 py-1.5">No machine yet; its width decides how wide a strip can be.</li>
        )}
      </ul>
      {may(workspace, "design") && (
        <form onSubmit={add} className="sheet mt-2 grid grid-cols-3 items-start gap-3 p-3">
          <TextField
            label="Machine"
            value={draft.name}
            error={wrong("name")}
            onCommit={(name) => setDraft((now) => ({ ...now, name }))}
          />
          <ChoiceField
            label="Its work"
            value={draft.kind}
            options={(catalogue.data?.machine_kinds ?? []).map(([key = "", name = ""]): [string, string] => [
              key,
              name,
            ])}
            onCommit={(kind) => setDraft((now) => ({ ...now, kind: kind as Schemas["MachineIn"]["kind"] }))}
          />
          <QuantityField
            label="Working width"
            dimension="length"
            reader={reader}
            usual={blank.width.unit}
            value={draft.width}
            error={wrong("width")}
            onCommit={(width) => setDraft((now) => ({ ...now, width }))}
          />
          <div className="col-span-3">
            <Problem>{problem && !["name", "width"].includes(problem.field ?? "") && problem.message}</Problem>
            <button type="submit" className="act">
              Add the machine
            </button>
          </div>
        </form>
      )}
    </section>
  );
}
