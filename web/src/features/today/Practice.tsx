import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { ask, client } from "../../api/client";
import { namedHeaders } from "../../api/device";
import { useHere } from "../../app/Gate";
import { faultOf, useSaving } from "../../app/saving";
import { Problem } from "../../ui/Problem";

const LOOK_EVERY_MS = 2_000;

/** A workspace to try things on, filled with made-up trials; removed with one touch. */
export function Practice() {
  const { person, workspace, switchTo } = useHere();
  const cache = useQueryClient();
  const { save } = useSaving();
  const [problem, setProblem] = useState("");
  const path = { workspace_id: workspace.id };
  const key = ["practice", workspace.id];
  const practice = useQuery({
    queryKey: key,
    queryFn: () => ask(client.GET("/api/workspaces/{workspace_id}/practice", { params: { path } })),
    refetchInterval: (query) => (query.state.data?.under_way ? LOOK_EVERY_MS : false),
  });
  const ready = practice.data?.workspace_id;
  useEffect(() => {
    if (ready) void cache.invalidateQueries({ queryKey: ["session"] });
  }, [ready, cache]);
  const begin = async () => {
    setProblem("");
    try {
      const state = await save(() => ask(client.POST("/api/workspaces/{workspace_id}/practice", { params: { path } })));
      cache.setQueryData(key, state);
    } catch (error) {
      setProblem(faultOf(error).message);
    }
  };
  const remove = async (id: string) => {
    setProblem("");
    try {
      await save(() =>
        ask(
          client.DELETE("/api/workspaces/{workspace_id}/practice", {
            params: { path: { workspace_id: id } },
            headers: namedHeaders({ person: person.username, workspaceId: id }),
          }),
        ),
      );
      await cache.invalidateQueries({ queryKey: key });
      await cache.invalidateQueries({ queryKey: ["session"] });
    } catch (error) {
      setProblem(faultOf(error).message);
    }
  };
  const state = practice.data;
  if (!state) return null;
  return (
    <div className="sheet space-y-2 p-3">
      {state.workspace_id ? (
        <>
          <p>
            The practice workspace has made-up trials at every stage of the season. Nothing done there touches your own.
          </p>
          <div className="flex flex-wrap gap-2">
            {workspace.id !== state.workspace_id && (
              <button type="button" className="act min-h-11" onClick={() => void switchTo(state.workspace_id ?? "")}>
                Go to the practice workspace
              </button>
            )}
            <button type="button" className="plain min-h-11" onClick={() => void remove(state.workspace_id ?? "")}>
              Remove the practice workspace
            </button>
          </div>
        </>
      ) : state.under_way ? (
        <p role="status">
          Writing the practice workspace, {Math.round(state.progress * 100)} %. {state.said} You can go on meanwhile.
        </p>
      ) : (
        <>
          <p>Try everything first: a workspace beside your own, filled with made-up trials of a whole season.</p>
          {state.failed && <p className="caution">{state.said}</p>}
          <button type="button" className="plain min-h-11" onClick={() => void begin()}>
            Make a practice workspace
          </button>
        </>
      )}
      <Problem>{problem}</Problem>
    </div>
  );
}
