import { QuantityField } from "../../ui/fields";
import { AlongTheRow } from "./AlongTheRow";
import { Caution, Columns } from "./Columns";
import { useStage } from "./TrialFrame";

export function Seed() {
  const { trial, edit, problems, writable, system, currency } = useStage();
  const shared = { disabled: !writable, system };
  const varied = new Set(trial.factors.map((one) => one.kind));
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
        <AlongTheRow trial={trial} />
      </section>
      <div className="mt-4 grid max-w-3xl gap-3 md:grid-cols-3">
        {!varied.has("row_spacing") && (
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
          label="Weight of seed"
          dimension="seed_mass"
          value={trial.thousand_seed_weight}
          error={problems.thousand_seed_weight}
          hint="Of the lot in the drill; for rates by weight."
          onCommit={(thousand_seed_weight) => void edit({ thousand_seed_weight }, "seed weight")}
        />
        <QuantityField
          {...shared}
          label="Seeds expected up"
          dimension="percent"
          value={trial.emergence}
          error={problems.emergence}
          hint="Of the seeds sown; for rates in plants wanted."
          onCommit={(emergence) => void edit({ emergence }, "emergence")}
        />
        <QuantityField
          {...shared}
          label="Seeds in a bag"
          dimension="count"
          value={trial.bag_seeds}
          error={problems.bag_seeds}
          hint="For rates in bags, and for the cost of seed."
          onCommit={(bag_seeds) => void edit({ bag_seeds }, "seeds in a bag")}
        />
        <QuantityField
          {...shared}
          label="Price of a bag"
          dimension="money"
          currency={currency}
          value={trial.bag_price}
          error={problems.bag_price}
          hint="With it, seed joins the cost of each treatment."
          onCommit={(bag_price) => void edit({ bag_price }, "price of a bag")}
        />
      </div>
    </Columns>
  );
}
