import { ask, client } from "../../../api/client";
import { Problem } from "../../../ui/Problem";
import { Worked } from "../../../ui/working";
import { AlongTheRow } from "../AlongTheRow";
import { KeptForm } from "./KeptForm";
import type { SeedProps } from "./Rates";

/** Rows against wheels and light: what later passes run over, and how much ground the leaves cover. */
export function RowsAndWheels({ stage, seed }: SeedProps) {
  const { trial, write, problems, writable } = stage;
  const put = (version: number, amendment: string) =>
    ask(
      client.POST("/api/trials/{trial_id}/wheel-costs", {
        params: { path: { trial_id: trial.id } },
        body: { version, amendment },
      }),
    );
  const there = trial.costs.some((line) => line.label === "Wheel tracks");
  return (
    <>
      <KeptForm
        stage={stage}
        name="wheels"
        kept={seed.kept.wheels}
        problem={seed.wheels_problem}
        more={["canopy", "leaf_span"]}
      />
      {seed.wheels.length > 0 && (
        <table aria-label="Wheels of later passes" className="figures mt-3 max-w-4xl">
          <thead>
            <tr>
              <th className="num">Row spacing</th>
              <th className="num">Rows run over</th>
              <th className="num">Rows lost</th>
              <th className="num">Yield lost</th>
              <th className="num">Money lost</th>
              <th>A tyre between rows</th>
              <th>Fewest with the centre</th>
              <th className="num">Ground under leaves</th>
            </tr>
          </thead>
          <tbody>
            {seed.wheels.map((row) => (
              <tr key={row.row_spacing}>
                <td className="num">{row.row_spacing}</td>
                <td className="num">
                  <Worked working={row.working}>{row.rows_hit}</Worked>
                </td>
                <td className="num">{row.rows_lost}</td>
                <td className="num">
                  <Worked working={row.working}>{row.yield_lost}</Worked>
                </td>
                <td className="num">{row.loss ?? "needs yield and price"}</td>
                <td>{row.clear ? "fits" : "does not fit"}</td>
                <td>{row.better_centre}</td>
                <td className="num">{row.canopy ?? ""}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {writable && seed.wheels_into_costs && (
        <p className="mt-2 flex items-center gap-3">
          <button type="button" className="plain" onClick={() => void write("wheel_costs", put)}>
            {there ? "Put it into the costs anew" : "Put it into the costs"}
          </button>
          <span className="muted">
            {there
              ? "“Wheel tracks” stands among the cost lines on the Treatments page."
              : "As a cost line of each row spacing."}
          </span>
        </p>
      )}
      <Problem>{problems.wheel_costs}</Problem>
      <section aria-label="Along the row" className="mt-4">
        <h2>Seeds along the row</h2>
        <AlongTheRow trial={trial} />
      </section>
    </>
  );
}
