import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type Schemas } from "../../api/client";
import { useHere } from "../../app/Gate";
import { may } from "../../app/rights";
import { faultOf, useSaving } from "../../app/saving";
import { Problem } from "../../ui/Problem";

type What = Schemas["MergeIn"]["what"];
type Props = { what: What; title: string; choices: [string, string][] };

/** Two entries of the same thing become one: what goes over and where they differ is shown before anything is done. */
export function Merge({ what, title, choices }: Props) {
  const { workspace } = useHere();
  const cache = useQueryClient();
  const { save } = useSaving();
  const [gone, setGone] = useState("");
  const [kept, setKept] = useState("");
  const [problem, setProblem] = useState("");
  const [done, setDone] = useState("");
  const path = { workspace_id: workspace.id };
  const chosen = gone !== "" && kept !== "" && gone !== kept;
  const look = useQuery({
    queryKey: ["merge", workspace.id, what, gone, kept],
    queryFn: () =>
      ask(client.GET("/api/workspaces/{workspace_id}/merge", { params: { path, query: { what, gone, kept } } })),
    enabled: chosen,
    staleTime: 0,
  });
  if (!may(workspace, "design") || choices.length < 2) return null;
  async function merge() {
    try {
      const told = await save(() =>
        ask(
          client.POST("/api/workspaces/{workspace_id}/merge", {
            params: { path },
            body: { what, gone, kept, accept: true },
          }),
        ),
      );
      setDone(`${told.gone} is now ${told.kept}.`);
      setProblem("");
      setGone("");
      setKept("");
      await cache.invalidateQueries();
    } catch (error) {
      setProblem(faultOf(error).message);
    }
  }
  const told = chosen ? look.data : undefined;
  return (
    <details className="mt-4">
      <summary className="cursor-pointer underline">{title}</summary>
      <div className="sheet mt-2 space-y-2 p-3">
        <div className="grid gap-3 sm:grid-cols-2">
          <Choice label="This one goes" value={gone} choices={choices} onChange={setGone} />
          <Choice label="into this one, which is kept" value={kept} choices={choices} onChange={setKept} />
        </div>
        {look.isError && chosen && <Problem>{faultOf(look.error).message}</Problem>}
        {told && (
          <>
            <p>
              {told.moves.length
                ? `${told.moves.join(", ")} will be of ${told.kept}.`
                : `Nothing hangs on ${told.gone} yet.`}
            </p>
            {told.differs.length > 0 && (
              <p className="caution">
                They are not the same: {told.differs.join("; ")}. What {told.kept} says will hold.
              </p>
            )}
            <button type="button" className="act min-h-11" onClick={() => void merge()}>
              Merge {told.gone} into {told.kept}
            </button>
          </>
        )}
        <Problem>{problem}</Problem>
        {done && <p role="status">{done}</p>}
      </div>
    </details>
  );
}

type ChoiceProps = { label: string; value: string; choices: [string, string][]; onChange: (value: string) => void };

function Choice({ label, value, choices, onChange }: ChoiceProps) {
  return (
    <label>
      {label}
      <select className="entry" value={value} onChange={(event) => onChange(event.target.value)}>
        <option value="">choose</option>
        {choices.map(([key, name]) => (
          <option key={key} value={key}>
            {name}
          </option>
        ))}
      </select>
    </label>
  );
}
