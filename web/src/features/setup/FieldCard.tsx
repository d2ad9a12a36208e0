import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type Schemas } from "../../api/client";
import { faultOf, useSaving } from "../../app/saving";
import { TextField } from "../../ui/fields";
import { Problem } from "../../ui/Problem";

type Field = Schemas["FieldOut"];
type Area = Schemas["AreaOut"];

/** A field's boundary, directions and areas; layouts drawn on it stay as they were drawn. */
export function FieldCard({ field, writable }: { field: Field; writable: boolean }) {
  const cache = useQueryClient();
  const { save } = useSaving();
  const [problem, setProblem] = useState<{ field: string | null; message: string } | null>(null);
  const [areas, setAreas] = useState<Area[]>(field.areas);

  async function run(work: () => Promise<Field>) {
    try {
      await save(work);
      setProblem(null);
    } catch (error) {
      setProblem(faultOf(error));
    }
    void cache.invalidateQueries({ queryKey: ["fields"] });
  }
  const path = { params: { path: { field_id: field.id } } };
  const patch = (part: Omit<Schemas["FieldPatchIn"], "version" | "corners_in">) =>
    run(() =>
      ask(
        client.PATCH("/api/fields/{field_id}", {
          ...path,
          body: { ...part, version: field.version, corners_in: field.boundary_in_m ? "m" : "degrees" },
        }),
      ),
    );
  const upload = (file: File) =>
    run(() =>
      ask(
        client.POST("/api/fields/{field_id}/boundary-file", {
          ...path,
          body: { version: field.version, file: file as unknown as string },
          bodySerializer: (body) => {
            const form = new FormData();
            form.append("version", String(body.version));
            form.append("file", file);
            return form;
          },
        }),
      ),
    );
  const wrong = (name: string) => (problem?.field === name ? problem.message : null);
  const unit = field.boundary_in_m || !field.boundary.length ? "metres east and north" : "latitude and longitude";

  return (
    <div className="grid gap-4 py-2 md:grid-cols-[9rem_1fr]">
      <Outline ring={field.boundary} />
      <div className="space-y-2">
        <p className="muted">
          {field.boundary.length
            ? `${field.size}, ${field.boundary.length} corners. ${field.boundary_said}`
            : "Known by its size only; a boundary makes the strips lie where they will."}
        </p>
        {writable && (
          <label className="plain inline-block">
            Boundary from a file
            <input
              type="file"
              aria-label={`Boundary of ${field.name} from a file`}
              className="sr-only"
              accept=".geojson,.json,.gpkg,.zip,.kml"
              onChange={(event) => {
                const file = event.target.files?.[0];
                event.target.value = "";
                if (file) void upload(file);
              }}
            />
          </label>
        )}
        <Problem>{wrong("file")}</Problem>
        <div className="grid grid-cols-2 gap-3">
          <TextField
            label="Driving direction, degrees from north"
            inputMode="decimal"
            disabled={!writable}
            value={field.heading}
            error={wrong("heading")}
            hint="Empty takes the longest side."
            onCommit={(heading) => void patch({ heading })}
          />
          <TextField
            label="The ground changes towards, degrees"
            inputMode="decimal"
            disabled={!writable}
            value={field.gradient}
            error={wrong("gradient")}
            hint="Downhill, or from light soil to heavy."
            onCommit={(gradient) => void patch({ gradient })}
          />
        </div>
        {areas.map((area, place) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: an area has no other name until it is kept
          <div key={place} className="grid grid-cols-[9rem_1fr_auto] items-end gap-3">
            <label>
              Area
              <select
                className="entry"
                value={area.kind}
                disabled={!writable}
                onChange={(event) =>
                  setAreas(
                    areas.map((item, at) =>
                      at === place ? { ...item, kind: event.target.value as Area["kind"] } : item,
                    ),
                  )
                }
              >
                <option value="obstacle">jump over it</option>
                <option value="no_go">cut it out</option>
              </select>
            </label>
            <label>
              Its corners, one a line, {unit}
              <textarea
                className="entry"
                rows={2}
                value={area.corners}
                disabled={!writable}
                onChange={(event) =>
                  setAreas(areas.map((item, at) => (at === place ? { ...item, corners: event.target.value } : item)))
                }
              />
            </label>
            {writable && (
              <button
                type="button"
                className="pb-2 underline"
                onClick={() => setAreas(areas.filter((_, at) => at !== place))}
              >
                Remove
              </button>
            )}
          </div>
        ))}
        <Problem>{wrong("areas") ?? wrong("version")}</Problem>
        {writable && (
          <div className="flex gap-3">
            <button
              type="button"
              className="underline"
              onClick={() => setAreas([...areas, { kind: "obstacle", name: "", corners: "" }])}
            >
              Add an area to keep free
            </button>
            {JSON.stringify(areas) !== JSON.stringify(field.areas) && (
              <button type="button" className="plain" onClick={() => void patch({ areas })}>
                Keep the areas
              </button>
            )}
          </div>
        )}
        <Problem>
          {problem &&
            !["file", "heading", "gradient", "areas", "version"].includes(problem.field ?? "") &&
            problem.message}
        </Problem>
      </div>
    </div>
  );
}

function Outline({ ring }: { ring: number[][] }) {
  if (!ring.length) return <span />;
  const xs = ring.map((point) => point[0] ?? 0);
  const ys = ring.map((point) => point[1] ?? 0);
  const [left, top] = [Math.min(...xs), Math.max(...ys)];
  const size = Math.max(Math.max(...xs) - left, top - Math.min(...ys), 1);
  const points = ring.map(([x = 0, y = 0]) => `${((x - left) / size) * 100},${((top - y) / size) * 100}`).join(" ");
  return (
    <svg viewBox="-3 -3 106 106" className="h-36 w-36" role="img" aria-label="Outline of the field, north up">
      <polygon points={points} fill="var(--paper)" stroke="currentColor" strokeWidth="1.6" />
    </svg>
  );
}
