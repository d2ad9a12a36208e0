import { QuantityField } from "../../ui/fields";
import { Stake } from "../../ui/marks";
import { Worked } from "../../ui/working";
import { Caution, Columns } from "./Columns";
import { useStage } from "./TrialFrame";

export function Seed() {
  const { trial, edit, problems, writable, system } = useStage();
  const shared = { disabled: !writable, system };
  const rows = trial.treatments.filter((one) => one.along_row);
  return (
    <Columns
      why={
        <>
          <p>
            Seeds per length of row are what one can check behind the drill: rate times row spacing. Space in the row is
            its inverse, and the two say how crowded each plant stands.
          </p>
          <p>
            A rate by weight is turned into seeds with the thousand-seed weight of this lot. Two lots of one variety
            differ by a third; weigh the lot that is in the drill.
          </p>
          <Caution>
            Treated seed: gloves and no dust; never feed or dump what is left over. The product's label and local rules
            decide.
          </Caution>
        </>
      }
    >
      <section aria-label="Along the row" className="border-l-4 border-base-content pl-3">
        <h2>What each rate means along the row</h2>
        {rows.length ? (
          <table className="figures mt-1">
            <thead>
              <tr>
                <th>Treatment</th>
                <th className="num">Seeds sown</th>
                <th className="num">By weight</th>
                <th className="num">In the row</th>
                <th className="num">Seed to seed</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((one) => (
                <tr key={one.id}>
                  <td>
                    <Stake letter={one.letter} position={one.position} /> {one.name}
                  </td>
                  <td className="num">{one.along_row?.rate}</td>
                  <td className="num">{one.along_row?.mass ?? "needs the seed weight"}</td>
                  <td className="num">
                    <Worked working={one.along_row?.working}>{one.along_row?.per_row}</Worked>
                  </td>
                  <td className="num">{one.along_row?.in_row}</td>
                </tr>
              ))}
            </tbody>
          </table>
        ) : (
          <p className="muted">It shows once row spacing and seeding rate are known for the treatments.</p>
        )}
      </section>
      <div className="mt-4 grid max-w-3xl gap-3 md:grid-cols-3">
        {trial.factor_kind !== "row_spacing" && (
          <QuantityField
            {...shared}
            label="Row spacing, all strips"
            dimension="length"
            usual={system === "us" ? "in" : "cm"}
            value={trial.row_spacing}
            error={problems.row_spacing}
            onCommit={(row_spacing) => void edit({ row_spacing }, "row spacing")}
          />
        )}
        {trial.factor_kind !== "seeding_rate" && (
          <QuantityField
            {...shared}
            label="Seeding rate, all strips"
            dimension="seeding_rate"
            value={trial.seeding_rate}
            error={problems.seeding_rate}
            onCommit={(seeding_rate) => void edit({ seeding_rate }, "seeding rate")}
          />
        )}
        <QuantityField
          {...shared}
          label="Weight of seed"
          dimension="seed_mass"
          value={trial.thousand_seed_weight}
          error={problems.thousand_seed_weight}
          hint="Of the lot in the drill; for rates by weight."
          onCommit={(thousand_seed_weight) => void edit({ thousand_seed_weight }, "seed weight")}
        />
      </div>
    </Columns>
  );
}
