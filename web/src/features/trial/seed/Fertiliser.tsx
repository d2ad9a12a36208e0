import { Flag } from "../../../ui/marks";
import { Worked } from "../../../ui/working";
import { Caution } from "../Columns";
import { KeptForm } from "./KeptForm";
import type { SeedProps } from "./Rates";

/** How thick a rate lies along the row at each spacing of the trial, against one that is known. */
export function Fertiliser({ stage, seed }: SeedProps) {
  return (
    <>
      <KeptForm stage={stage} name="fertiliser" kept={seed.kept.fertiliser} problem={seed.fertiliser_problem} />
      {seed.fertiliser.length > 0 && (
        <table aria-label="Fertiliser along the row" className="figures mt-3 max-w-3xl">
          <thead>
            <tr>
              <th className="num">Row spacing</th>
              <th className="num">Along the row</th>
              <th className="num">Seedbed use</th>
              <th className="num">In the band</th>
              <th className="num">Against the reference</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {seed.fertiliser.map((row) => (
              <tr key={row.row_spacing}>
                <td className="num">{row.row_spacing}</td>
                <td className="num">
                  <Worked working={row.working}>{row.per_row}</Worked>
                </td>
                <td className="num">{row.seedbed_use}</td>
                <td className="num">{row.in_band}</td>
                <td className="num">{row.relative}</td>
                <td>
                  {row.warns && (
                    <b>
                      <Flag className="inline h-4 w-4" /> thicker: caution
                    </b>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {!seed.fertiliser.length && !seed.fertiliser_problem && (
        <p className="muted mt-2">It shows once product rate, opener and a reference spacing are given.</p>
      )}
      <div className="mt-3">
        <Caution>{seed.fertiliser_caution}</Caution>
      </div>
    </>
  );
}
