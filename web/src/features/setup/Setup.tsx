import { useQuery } from "@tanstack/react-query";
import { Fragment, useState } from "react";
import { Link } from "react-router";
import { ask, client } from "../../api/client";
import { useFields, useSeedLots } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { Waiting } from "../../ui/Waiting";
import { LotList } from "../seedlots/LotList";
import { AddField } from "./AddField";
import { FieldCard } from "./FieldCard";
import { Machines } from "./Machines";
import { PriceLists } from "./PriceLists";
import { SetupPlaces } from "./SetupPlaces";
import { StandIns } from "./StandIns";
import { Weather } from "./Weather";

const ROLES = { lead: "lead: plans and enters", scout: "scout: enters", viewer: "viewer: looks on" };

export function Setup() {
  const { person, workspace } = useHere();
  const home = { workspaceId: workspace.id, system: person.unit_system, currency: workspace.currency };
  const fields = useFields(workspace.id);
  const lots = useSeedLots(workspace.id);
  const [open, setOpen] = useState("");
  const people = useQuery({
    queryKey: ["people", workspace.id],
    queryFn: () =>
      ask(client.GET("/api/workspaces/{workspace_id}/people", { params: { path: { workspace_id: workspace.id } } })),
  });
  return (
    <>
      <SetupPlaces />
      <div className="grid gap-8 lg:grid-cols-[3fr_2fr]">
        <section aria-labelledby="fields">
          <h1>{workspace.name}</h1>
          <p className="muted mb-3">
            Money is written in {workspace.currency}.{" "}
            <Link className="worked" to="/setup/look">
              The look: inks, hatches, type, controls
            </Link>
          </p>
          <h2 id="fields">Fields</h2>
          <Waiting query={fields} />
          <table className="figures mt-1">
            <thead>
              <tr>
                <th>Farm</th>
                <th>Field</th>
                <th className="num">Area</th>
                <th>Known by</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {fields.data?.map((field) => (
                <Fragment key={field.id}>
                  <tr>
                    <td>{field.farm}</td>
                    <td>{field.name}</td>
                    <td className="num">{field.size}</td>
                    <td className="muted">
                      {field.boundary.length
                        ? `boundary${field.areas.length ? `, ${field.areas.length} kept free` : ""}`
                        : field.width.shown
                          ? `${field.width.shown} × ${field.length.shown}`
                          : "its name only"}
                    </td>
                    <td>
                      <button
                        type="button"
                        className="underline"
                        aria-expanded={open === field.id}
                        onClick={() => setOpen(open === field.id ? "" : field.id)}
                      >
                        {open === field.id ? "Close" : "Open"}
                        <span className="sr-only"> {field.name}</span>
                      </button>
                    </td>
                  </tr>
                  {open === field.id && (
                    <tr>
                      <td colSpan={5}>
                        <FieldCard key={field.version} field={field} writable={workspace.role !== "viewer"} />
                      </td>
                    </tr>
                  )}
                </Fragment>
              ))}
            </tbody>
          </table>
          {fields.data && !fields.data.length && <p className="muted">No field yet; add the first one.</p>}
          {workspace.role !== "viewer" && <AddField />}
          <h2 className="mt-6">Seed lots</h2>
          <Waiting query={lots} />
          {lots.data && (
            <LotList home={home} lots={lots.data} crop="winter_wheat" writable={workspace.role !== "viewer"} />
          )}
        </section>
        <section aria-labelledby="people">
          <h2 id="people">People</h2>
          <Waiting query={people} />
          <ul className="sheet divide-y divide-base-300">
            {people.data?.map((one) => (
              <li key={one.username} className="flex justify-between gap-3 px-2.5 py-1.5">
                <span className="font-medium">{one.name}</span>
                <span className="muted">{ROLES[one.role]}</span>
              </li>
            ))}
          </ul>
          <Machines />
          <PriceLists />
          <Weather />
          <StandIns />
        </section>
      </div>
    </>
  );
}
