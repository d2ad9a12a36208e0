import { useQuery } from "@tanstack/react-query";
import { ask, client } from "../../api/client";
import { useHere } from "../../app/Gate";
import { Waiting } from "../../ui/Waiting";
import { momentWords, SetupPlaces } from "./SetupPlaces";

const NAMES: Record<string, string> = {
  database: "Database",
  space: "Disk space",
  worker: "Worker for long work",
  queue: "Work waiting",
  files: "Photographs and logs",
  backups: "Backups",
  permissions: "File permissions",
  reader: "Reading of files",
};

/** The state of the installation, for the lead: what is well, what is not, and what to do. */
export function System() {
  const { workspace } = useHere();
  const health = useQuery({
    queryKey: ["health", workspace.id],
    queryFn: () =>
      ask(client.GET("/api/workspaces/{workspace_id}/health", { params: { path: { workspace_id: workspace.id } } })),
  });
  return (
    <div className="mx-auto max-w-5xl">
      <SetupPlaces />
      <h1>{health.data ? (health.data.well ? "The system is well" : "The system needs attention") : "System"}</h1>
      <Waiting query={health} />
      {health.data && (
        <>
          <table className="figures mt-2">
            <tbody>
              {health.data.checks.map((one) => (
                <tr key={one.name}>
                  <td className="font-semibold">{NAMES[one.name] ?? one.name}</td>
                  <td className={one.well ? "" : "font-semibold text-error"}>{one.well ? "well" : "not well"}</td>
                  <td>{one.words}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <h2 className="mt-6">Last contact of devices</h2>
          <table className="figures mt-1">
            <tbody>
              {health.data.devices.map((one) => (
                <tr key={`${one.person}${one.device}${one.last_contact}`}>
                  <td>{one.person}</td>
                  <td>{one.device}</td>
                  <td>{momentWords(one.last_contact)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </div>
  );
}
