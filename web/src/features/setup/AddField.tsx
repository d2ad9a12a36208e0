import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { ask, client, type Schemas, type Typed } from "../../api/client";
import { useHere } from "../../app/Gate";
import { faultOf, useSaving } from "../../app/saving";
import { ChoiceField, QuantityField, TextField } from "../../ui/fields";
import { Problem } from "../../ui/Problem";
import { blankIn, useReaderUnits } from "../../ui/readerUnits";

type Draft = Schemas["FieldIn"];
type Shape = "size" | "degrees" | "m" | "file";

/** A new field: by its size, by corners typed in, or by name only when a file will bring the boundary. */
export function AddField() {
  const reader = useReaderUnits();
  const { workspace } = useHere();
  const cache = useQueryClient();
  const { save } = useSaving();
  const empty: Typed = blankIn(reader, "strip_width");
  const blank: Draft = {
    name: "",
    farm: "",
    width: empty,
    length: empty,
    corners: "",
    corners_in: "degrees",
    shape_later: false,
  };
  const [field, setField] = useState(blank);
  const [shape, setShape] = useState<Shape>("size");
  const [problem, setProblem] = useState<{ field: string | null; message: string } | null>(null);
  const wrong = (name: string) => (problem?.field === name ? problem.message : null);
  const put = (part: Partial<Draft>) => setField((now) => ({ ...now, ...part }));

  async function add(event: FormEvent) {
    event.preventDefault();
    const body: Draft = {
      ...field,
      corners: shape === "degrees" || shape === "m" ? field.corners : "",
      corners_in: shape === "m" ? "m" : "degrees",
      shape_later: shape === "file",
      ...(shape === "size" ? {} : { width: empty, length: empty }),
    };
    try {
      await save(() =>
        ask(
          client.POST("/api/workspaces/{workspace_id}/fields", {
            params: { path: { workspace_id: workspace.id } },
            body,
          }),
        ),
      );
      setField({ ...blank, farm: field.farm });
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
        <TextField label="Farm" value={field.farm} onCommit={(farm) => put({ farm })} />
        <TextField
          label="Name of the field"
          value={field.name}
          error={wrong("name")}
          onCommit={(name) => put({ name })}
        />
        <ChoiceField
          label="Its shape"
          value={shape}
          options={[
            ["size", "width and length"],
            ["degrees", "corners, latitude and longitude"],
            ["m", "corners, metres"],
            ["file", "a file, right after"],
          ]}
          onCommit={(value) => setShape(value as Shape)}
        />
        <span />
        {shape === "size" && (
          <>
            <QuantityField
              label="Width"
              dimension="length"
              reader={reader}
              usual={empty.unit}
              value={field.width}
              error={wrong("width")}
              hint="Across the direction of driving."
              onCommit={(width) => put({ width })}
            />
            <QuantityField
              label="Length"
              dimension="length"
              reader={reader}
              usual={empty.unit}
              value={field.length}
              error={wrong("length")}
              hint="Along the direction of driving."
              onCommit={(length) => put({ length })}
            />
          </>
        )}
        {(shape === "degrees" || shape === "m") && (
          <div className="col-span-2">
            <TextField
              label="Corners, one a line"
              multiline
              value={field.corners}
              error={wrong("corners")}
              hint={shape === "degrees" ? "Such as 46.51230, -28.40120" : "East and north, such as 0 0"}
              onCommit={(corners) => put({ corners })}
            />
          </div>
        )}
      </div>
      <Problem>
        {problem && !["name", "width", "length", "corners"].includes(problem.field ?? "") && problem.message}
      </Problem>
      <button type="submit" className="act mt-3">
        Add the field
      </button>
    </form>
  );
}
