import type { Schemas } from "../../../api/client";
import { ChoiceField, QuantityField } from "../../../ui/fields";
import { Stake } from "../../../ui/marks";
import { Worked } from "../../../ui/working";
import { AlongTheRow } from "../AlongTheRow";
import type { Stage } from "../TrialFrame";

export type SeedProps = { stage: Stage; seed: Schemas["SeedStageOut"] };

/** Rates both ways: what goes through the drill, and the stand to expect from it. */
export function Rates({ stage, seed }: SeedProps) {
  const { trial } = stage;
  const named = new Map(trial.treatments.map((treatment) => [treatment.id, treatment]));
  return (
    <>
      <table aria-label="From rate to stand" className="figures">
        <thead>
          <tr>
            <th>Treatment</th>
            <th>Lot</th>
            <th className="num">Seeds sown</th>
            <th className="num">Through the drill</th>
            <th className="num">Stand to expect</th>
            <th className="num">Cost of seed</th>
          </tr>
        </thead>
        <tbody>
          {seed.treatments.map((row) => {
            const treatment = named.get(row.treatment_id);
            if (!treatment) return null;
            return (
              <tr key={row.treatment_id}>
                <td className="whitespace-nowrap">
                  <Stake letter={treatment.letter} position={treatment.position} /> {treatment.name}
                </td>
                <td>
                  {row.lot}
                  {row.companions.map((companion) => (
                    <span key={companion.name} className="muted block">
                      + {companion.name}, {companion.mass} {companion.place}
                    </span>
                  ))}
                </td>
                <td className="num">{row.seeds ?? "no rate yet"}</td>
                <td className="num">
                  <Worked working={row.rate_working}>{row.mass ?? "–"}</Worked>
                </td>
                <td className="num">
                  <Worked working={row.stand_working}>{row.stand ?? "–"}</Worked>
                </td>
                <td className="num">{row.cost ?? "–"}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <Entries stage={stage} lots={seed.lots.length > 0} />
      <section aria-label="Along the row" className="mt-4">
        <h2>What each rate means along the row</h2>
        <AlongTheRow trial={trial} />
      </section>
    </>
  );
}

function Entries({ stage, lots }: { stage: Stage; lots: boolean }) {
  const { trial, edit, problems, writable, reader, currency } = stage;
  const shared = { disabled: !writable, reader };
  const varied = new Set(trial.factors.map((factor) => factor.kind));
  return (
    <div className="mt-4 grid max-w-3xl grid-cols-2 gap-3 md:grid-cols-4">
      {!varied.has("row_spacing") && (
        <QuantityField
          {...shared}
          label="Row spacing, all strips"
          dimension="length"
          kind="row_spacing"
          value={trial.row_spacing}
          error={problems.row_spacing}
          onCommit={(row_spacing) => void edit({ row_spacing }, "row spacing")}
        />
      )}
      {!varied.has("seeding_rate") && (
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
        label="Seeds expected up"
        dimension="percent"
        value={trial.emergence}
        error={problems.emergence}
        onCommit={(emergence) => void edit({ emergence }, "emergence")}
      />
      <ChoiceField
        label="That is of"
        value={trial.emergence_of}
        disabled={!writable}
        error={problems.emergence_of}
        options={[
          ["sown", "seed sown"],
          ["live", "live seed only"],
        ]}
        onCommit={(value) => void edit({ emergence_of: value as "sown" | "live" }, "what emergence is of")}
      />
      <QuantityField
        {...shared}
        label="Of these, alive at harvest"
        dimension="percent"
        value={trial.survival}
        error={problems.survival}
        hint="Empty counts as all."
        onCommit={(survival) => void edit({ survival }, "survival")}
      />
      {!varied.has("seeding_depth") && (
        <QuantityField
          {...shared}
          label="Depth wanted, all strips"
          dimension="length"
          kind="row_spacing"
          value={trial.sowing_depth}
          error={problems.sowing_depth}
          onCommit={(sowing_depth) => void edit({ sowing_depth }, "sowing depth")}
        />
      )}
      {!lots && (
        <>
          <QuantityField
            {...shared}
            label="Weight of seed"
            dimension="seed_mass"
            value={trial.thousand_seed_weight}
            error={problems.thousand_seed_weight}
            hint="Until a lot is chosen."
            onCommit={(thousand_seed_weight) => void edit({ thousand_seed_weight }, "seed weight")}
          />
          <QuantityField
            {...shared}
            label="Seeds in a bag"
            dimension="count"
            value={trial.bag_seeds}
            error={problems.bag_seeds}
            onCommit={(bag_seeds) => void edit({ bag_seeds }, "seeds in a bag")}
          />
          <QuantityField
            {...shared}
            label="Price of a bag"
            dimension="money"
            currency={currency}
            value={trial.bag_price}
            error={problems.bag_price}
            onCommit={(bag_price) => void edit({ bag_price }, "price of a bag")}
          />
        </>
      )}
    </div>
  );
}
