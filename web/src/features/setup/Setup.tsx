import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link } from "react-router";
import { ask, client, type Typed } from "../../api/client";
import { useFields } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { faultOf, useSaving } from "../../app/saving";
import { QuantityField, TextField } from "../../ui/fields";
import { Waiting } from "../../ui/Waiting";

const ROLES = { lead: "lead: plans and enters", scout: "scout: enters", viewer: "viewer: looks on" };

export function Setup() {
  const { workspace } = useHere();
  const fields = useFields(workspace.id);
  const people = useQuery({
    queryKey: ["people", workspace.id],
    queryFn: () =>
      ask(client.GET("/api/workspaces/{workspace_id}/people", { params: { path: { workspace_id: workspace.id } } })),
  });
  return (
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
              <th className="num">Width</th>
              <th className="num">Length</th>
            </tr>
          </thead>
          <tbody>
            {fields.data?.map((field) => (
              <tr key={field.id}>
                <td>{field.farm}</td>
                <td>{field.name}</td>
                <td className="num">{field.width.shown}</td>
                <td className="num">{field.length.shown}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {fields.data && !fields.data.length && <p className="muted">No field yet; add the first one.</p>}
        {workspace.role !== "viewer" && <AddField />}
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
      </section>
    </div>
  );
}

function AddField() {
  const { person, workspace } = useHere();
  const cache = useQueryClient();
  const { save } = useSaving();
  const empty: Typed = { text: "", unit: person.unit_system === "us" ? "ft" : "m" };
  const [field, setField] = useState({ name: "", farm: "", width: empty, length: empty });
  const [problem, setProblem] = useState<{ field: string | null; message: string } | null>(null);
  const wrong = (name: string) => (problem?.field === name ? problem.message : null);

  async function add(event: FormEvent) {
    event.preventDefault();
    try {
      await save(() =>
        ask(
          client.POST("/api/workspaces/{workspace_id}/fields", {
            params: { path: { workspace_id: workspace.id } },
            body: field,
          }),
        ),
      );
      setField({ name: "", farm: field.farm, width: empty, length: empty });
      setProblem(null);
      void cache.invalidateQueries({ queryKey: ["fields"] });
    } catch (error) {
      setProblem(faultOf(error));
    }
  }

  return (
    <form onSubmit={add} className="sheet mt-4 p-3">
      <h3 className="mb-2">Add a field</h3>
      <div className="grid grid-cols-2 gap-3">
        <TextField label="Farm" value={field.farm} onCommit={(farm) => setField((now) => ({ ...now, farm }))} />
        <TextField
          label="Name of the field"
          value={field.name}
          error={wrong("name")}
          onCommit={(name) => setField((now) => ({ ...now, name }))}
        />
        <QuantityField
          label="Width"
          dimension="length"
          system={person.unit_system}
          usual={empty.unit}
          value={field.width}
          error={wrong("width")}
          hint="Across the direction of driving."
          onCommit={(width) => setField((now) => ({ ...now, width }))}
        />
        <QuantityField
          label="Length"
          dimension="length"
          system={person.unit_system}
          usual={empty.unit}
          value={field.length}
          error={wrong("length")}
          hint="Along the direction of driving."
          onCommit={(length) => setField((now) => ({ ...now, length }))}
        />
      </div>
      {problem && !["name", "width", "length"].includes(problem.field ?? "") && (
        <p role="alert" className="mt-2 font-medium text-error">
          {problem.message}
        </p>
      )}
      <button type="submit" className="act mt-3">
        Add the field
      </button>
    </form>
  );
}
