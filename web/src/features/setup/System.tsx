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
  history: "History",
};

/** The state of the installation, for owners: what is well, what is not, and what to do. */
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
              {health.data.checks.map((check) => (
                <tr key={check.name}>
                  <td className="font-semibold">{NAMES[check.name] ?? check.name}</td>
                  <td className={check.well ? "" : "font-semibold text-error"}>{check.well ? "well" : "not well"}</td>
                  <td>{check.words}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <h2 className="mt-6">Last contact of devices</h2>
          <table className="figures mt-1">
            <tbody>
              {health.data.devices.map((device) => (
                <tr key={`${device.person}${device.device}${device.last_contact}`}>
                  <td>{device.person}</td>
                  <td>{device.device}</td>
                  <td>{momentWords(device.last_contact)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </div>
  );
}
