import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client } from "../../api/client";
import { useHere } from "../../app/Gate";
import { may } from "../../app/rights";
import { faultOf, useSaving } from "../../app/saving";
import { TextField } from "../../ui/fields";
import { Waiting } from "../../ui/Waiting";
import { momentWords, SetupPlaces } from "./SetupPlaces";

/** Devices one is signed in on, how long they keep what they saved, and what uploads take. */
export function Devices() {
  const { workspace } = useHere();
  return (
    <div className="mx-auto max-w-5xl">
      <SetupPlaces />
      <h1>Devices</h1>
      <Signed />
      <h2 className="mt-6">Offline copies</h2>
      <PackDays />
      <h2 className="mt-6">Photographs and logs of {workspace.name}</h2>
      <Usage />
    </div>
  );
}

function Signed() {
  const cache = useQueryClient();
  const { save } = useSaving();
  const devices = useQuery({ queryKey: ["sessions"], queryFn: () => ask(client.GET("/api/sessions")) });
  const others = devices.data?.filter((device) => !device.here).length ?? 0;
  const renew = () => cache.invalidateQueries({ queryKey: ["sessions"] });
  const end = async (id: string) => {
    await save(() => ask(client.DELETE("/api/sessions/{device_id}", { params: { path: { device_id: id } } }))).catch(
      () => undefined,
    );
    await renew();
  };
  const endOthers = async () => {
    await save(() => ask(client.DELETE("/api/sessions"))).catch(() => undefined);
    await renew();
  };
  return (
    <>
      <p className="muted mb-2">
        You are signed in on these devices. One that is lost: sign it out here. A device is signed out by itself after
        14 days without contact, a shared one after half an hour.
      </p>
      <Waiting query={devices} />
      {devices.data && (
        <table className="figures">
          <thead>
            <tr>
              <th>Device</th>
              <th>Signed in</th>
              <th>Last contact</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {devices.data.map((device) => (
              <tr key={device.id}>
                <td>
                  {device.name}
                  {device.shared && <span className="muted">, shared</span>}
                  {device.here && <b>, this one</b>}
                </td>
                <td>{momentWords(device.signed_in_at)}</td>
                <td>{momentWords(device.last_contact)}</td>
                <td>
                  {!device.here && (
                    <button type="button" className="plain min-h-11" onClick={() => void end(device.id)}>
                      Sign out<span className="sr-only"> {device.name}</span>
                    </button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {others > 0 && (
        <button type="button" className="plain mt-2 min-h-11" onClick={() => void endOthers()}>
          Sign out all other devices
        </button>
      )}
    </>
  );
}

function PackDays() {
  const { workspace } = useHere();
  const cache = useQueryClient();
  const { save } = useSaving();
  const [problem, setProblem] = useState("");
  const change = async (text: string) => {
    setProblem("");
    try {
      const days = Number(text);
      if (!Number.isInteger(days)) return setProblem("Type whole days, such as 14.");
      await save(() =>
        ask(
          client.PATCH("/api/workspaces/{workspace_id}", {
            params: { path: { workspace_id: workspace.id } },
            body: { pack_days: days },
          }),
        ),
      );
      await cache.invalidateQueries({ queryKey: ["session"] });
    } catch (error) {
      setProblem(faultOf(error).message);
    }
  };
  return (
    <div className="max-w-xs">
      <TextField
        label="Days that a device keeps what it saved for offline use"
        value={String(workspace.pack_days)}
        inputMode="numeric"
        disabled={!may(workspace, "settings")}
        error={problem}
        hint={
          may(workspace, "settings") ? "1 to 60. Records that wait are never removed." : "An owner can change this."
        }
        onCommit={(text) => void change(text)}
      />
    </div>
  );
}

function Usage() {
  const { workspace } = useHere();
  const usage = useQuery({
    queryKey: ["usage", workspace.id],
    queryFn: () =>
      ask(client.GET("/api/workspaces/{workspace_id}/usage", { params: { path: { workspace_id: workspace.id } } })),
  });
  if (!usage.data) return <Waiting query={usage} />;
  const { space_bytes, space_limit_bytes, uploads_this_hour, uploads_limit } = usage.data;
  return (
    <table className="figures">
      <tbody>
        <tr>
          <td className="font-semibold">Space used</td>
          <td className="num">{(space_bytes / 1e6).toFixed(1)} MB</td>
          <td className="muted">of {(space_limit_bytes / 1e9).toFixed(1)} GB</td>
        </tr>
        <tr>
          <td className="font-semibold">Uploads in the last hour</td>
          <td className="num">{uploads_this_hour}</td>
          <td className="muted">of {uploads_limit}</td>
        </tr>
      </tbody>
    </table>
  );
}
