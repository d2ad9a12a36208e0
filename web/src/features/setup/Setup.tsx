import { Fragment, useState } from "react";
import { Link } from "react-router";
import { useFields } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { may } from "../../app/rights";
import { Waiting } from "../../ui/Waiting";
import { AddField } from "./AddField";
import { FieldCard } from "./FieldCard";
import { Merge } from "./Merge";
import { SetupPlaces } from "./SetupPlaces";

/** The fields of a workspace, the first page of Setup. */
export function Setup() {
  const { workspace } = useHere();
  const fields = useFields(workspace.id);
  const [open, setOpen] = useState("");
  return (
    <div className="mx-auto max-w-5xl">
      <SetupPlaces />
      <h1>Fields of {workspace.name}</h1>
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
                    <FieldCard key={field.version} field={field} writable={may(workspace, "design")} />
                  </td>
                </tr>
              )}
            </Fragment>
          ))}
        </tbody>
      </table>
      {fields.data && !fields.data.length && <p className="muted">No field yet; add the first one.</p>}
      {may(workspace, "design") && <AddField />}
      <Merge
        what="field"
        title="Merge a field entered twice"
        choices={(fields.data ?? []).map((field) => [field.id, [field.farm, field.name].filter(Boolean).join(", ")])}
      />
      <Merge
        what="farm"
        title="Merge a farm entered twice"
        choices={[...new Set((fields.data ?? []).map((field) => field.farm).filter(Boolean))].map((farm) => [
          farm,
          farm,
        ])}
      />
      <p className="muted mt-6">
        <Link className="worked" to="/setup/look">
          The look: inks, hatches, type, controls
        </Link>
      </p>
    </div>
  );
}
