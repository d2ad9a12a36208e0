import { useQuery } from "@tanstack/react-query";
import { ask, client } from "../../api/client";
import { useHere } from "../../app/Gate";
import type { Role } from "../../app/rights";

/** The table of parts and what each may, with the farms there are. */
export function useRights() {
  const { workspace } = useHere();
  return useQuery({
    queryKey: ["rights", workspace.id],
    queryFn: () =>
      ask(client.GET("/api/workspaces/{workspace_id}/rights", { params: { path: { workspace_id: workspace.id } } })),
  });
}

type Props = { role: Role; chosen: string[]; onChange: (farms: string[]) => void; error?: string | null };

/** Which farms a part reaches; an owner's is the whole workspace, a grower's at least one farm. */
export function Farms({ role, chosen, onChange, error }: Props) {
  const rights = useRights();
  const farms = [...new Set([...(rights.data?.farms ?? []), ...chosen])].sort();
  if (role === "owner" || !rights.data) return null;
  return (
    <fieldset>
      <legend className="font-medium">Farms</legend>
      {farms.length === 0 && (
        <p className="muted">No field names its farm yet. Add fields with their farm under Fields first.</p>
      )}
      <div className="flex flex-wrap gap-x-5">
        {farms.map((farm) => (
          <label key={farm} className="flex min-h-11 items-center gap-2">
            <input
              type="checkbox"
              className="h-5 w-5"
              checked={chosen.includes(farm)}
              onChange={(event) =>
                onChange(event.target.checked ? [...chosen, farm] : chosen.filter((other) => other !== farm))
              }
            />
            {farm}
          </label>
        ))}
      </div>
      <p className={error ? "font-medium text-error" : "muted text-sm"} role={error ? "alert" : undefined}>
        {error ??
          (role === "grower" ? "A grower sees these farms and no other." : "None chosen: all farms of the workspace.")}
      </p>
    </fieldset>
  );
}
