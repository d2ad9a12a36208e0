import { useState } from "react";
import { ask, client, type Typed, type Working } from "../../../api/client";
import { faultOf } from "../../../app/saving";
import { useUnits } from "../../../ui/fields";
import { Problem } from "../../../ui/Problem";
import { blankIn } from "../../../ui/readerUnits";
import { UnitEntry } from "../../../ui/UnitEntry";
import { Worked } from "../../../ui/working";
import type { Stage } from "../TrialFrame";

/** Plants of a hand-planted plot: the bench's grid, with this layout's own plot size. */
export function PlotGrid({ stage: { trial, reader } }: { stage: Stage }) {
  const units = useUnits("length", reader);
  const [spacing, setSpacing] = useState<Typed>(blankIn(reader, "row_spacing"));
  const [staggered, setStaggered] = useState(false);
  const [edge, setEdge] = useState("1");
  const [working, setFound] = useState<Working | null>(null);
  const [problem, setProblem] = useState("");
  const strip = trial.strips[0];
  if (strip?.place?.length !== 4) return null;
  const [u0 = 0, v0 = 0, u1 = 0, v1 = 0] = strip.place;

  async function reckon() {
    try {
      setFound(
        await ask(
          client.POST("/api/workspaces/{workspace_id}/bench/{key}", {
            params: { path: { workspace_id: trial.workspace_id, key: staggered ? "bed_staggered" : "bed_square" } },
            body: {
              crop: trial.crop,
              values: {
                width: { text: (u1 - u0).toFixed(2), unit: "m" },
                length: { text: (v1 - v0).toFixed(2), unit: "m" },
                spacing,
                edge_rows: { text: edge, unit: "" },
              },
            },
          }),
        ),
      );
      setProblem("");
    } catch (error) {
      setFound(null);
      setProblem(faultOf(error).message);
    }
  }

  return (
    <section aria-label="Planting grid of a plot" className="mt-4">
      <h3>Planting grid of a plot</h3>
      <form
        className="asked"
        onSubmit={(event) => {
          event.preventDefault();
          void reckon();
        }}
      >
        <div>
          Plant to plant
          <div className="w-40">
            <UnitEntry label="Plant to plant" value={spacing} units={units} numeric onChange={setSpacing} />
          </div>
        </div>
        <label>
          Grid
          <select
            className="entry"
            value={staggered ? "staggered" : "square"}
            onChange={(event) => setStaggered(event.target.value === "staggered")}
          >
            <option value="square">square</option>
            <option value="staggered">staggered</option>
          </select>
        </label>
        <label>
          Edge rows not counted
          <input
            className="entry w-24"
            inputMode="numeric"
            value={edge}
            onChange={(event) => setEdge(event.target.value)}
          />
        </label>
        <button type="submit" className="plain">
          Count the positions
        </button>
      </form>
      <Problem>{problem}</Problem>
      {working && (
        <p className="mt-1">
          <Worked working={working}>{working.outcome}</Worked> in a plot
          {working.steps.at(-1)?.label === "Counted" && `, ${working.steps.at(-1)?.outcome} counted`};{" "}
          {trial.strips.length} plots in all.
        </p>
      )}
    </section>
  );
}
