import type { Trial, Working } from "../../api/client";
import { Stake } from "../../ui/marks";
import { Worked } from "../../ui/working";

const inEveryUnit = (name: string, rates: [string, string][], rate: string): Working => ({
  title: `The rate of ${name} in every unit`,
  outcome: rate,
  steps: rates.map(([unit, number]) => ({
    label: unit,
    formula: "seeds per area, converted",
    numbers: rate,
    outcome: `${number} ${unit}`,
    source: "definition",
  })),
  table: [],
  assumption: "Weights, plants and bags rest on the lot on the Seed page.",
});

/** What each rate means in the furrow. */
export function AlongTheRow({ trial }: { trial: Trial }) {
  const rows = trial.treatments.filter((treatment) => treatment.along_row);
  if (!rows.length)
    return <p className="muted">It shows once row spacing and seeding rate are known for the treatments.</p>;
  return (
    <table className="figures mt-1">
      <thead>
        <tr>
          <th>Treatment</th>
          <th className="num">Seeds sown</th>
          <th className="num">By weight</th>
          <th className="num">In the row</th>
          <th className="num">Seed to seed</th>
          <th className="num">Space a seed</th>
          <th className="num">Its shape</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={row.id}>
            <td>
              <Stake letter={row.letter} position={row.position} /> {row.name}
            </td>
            <td className="num">
              {row.along_row && (
                <Worked working={inEveryUnit(row.name, row.along_row.rates as [string, string][], row.along_row.rate)}>
                  {row.along_row.rate}
                </Worked>
              )}
            </td>
            <td className="num">{row.along_row?.mass ?? "needs the seed weight"}</td>
            <td className="num">
              <Worked working={row.along_row?.working}>{row.along_row?.per_row}</Worked>
            </td>
            <td className="num">{row.along_row?.in_row}</td>
            <td className="num">{row.along_row?.space}</td>
            <td className="num">{row.along_row?.shape}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
