import { useState } from "react";
import { useUnits } from "../../../ui/fields";
import { UnitEntry } from "../../../ui/UnitEntry";
import { useStage } from "../TrialFrame";
import type { Basis, CostDraft } from "./draft";

type Units = [string, string][];
type Props = { cost: CostDraft; place: number; locked: boolean; put: (part: Partial<CostDraft>) => void };
const PARTS = [
  ["fuel", "Fuel", "volume_per_area"],
  ["fuel_price", "Price of fuel", "money_per_volume"],
  ["hours", "Hours", "time_per_area"],
  ["wage", "Wage", "money_per_time"],
  ["hire", "Hire of the machine", "money_per_time"],
] as const;

/** Units a cost may be typed in, by how it is reckoned, and of the area a sum is spread over; the reader's own first. */
export function useCostUnits(): { each: Record<Basis, Units>; spread: Units } {
  const { reader, currency } = useStage();
  const money = (units: Units) => units.map(([code, label]): [string, string] => [code, currency + label]);
  const sum: Units = [["money", currency]];
  return {
    each: {
      area: money(useUnits("money_per_area", reader)),
      yield: money(useUnits("price", reader)),
      trial: sum,
      machine_year: sum,
    },
    spread: useUnits("area", reader).filter(([code]) => code === "ha" || code === "ac"),
  };
}

/** What one time costs, in the unit its basis asks for; a sum with the area it is spread over. */
export function CostAmount({ cost, place, locked, put }: Props) {
  const { each, spread } = useCostUnits();
  const result = Object.values(cost.made_of).some((typed) => typed.text.trim());
  if (result) return <span className="muted">from fuel and hours below</span>;
  return (
    <>
      <UnitEntry
        label={`Each of cost ${place + 1}`}
        value={cost.each}
        units={each[cost.basis]}
        numeric
        disabled={locked}
        onChange={(value) => put({ each: value })}
      />
      {(cost.basis === "trial" || cost.basis === "machine_year") && (
        <UnitEntry
          label={`Area cost ${place + 1} is spread over`}
          value={cost.spread}
          units={spread}
          numeric
          disabled={locked}
          onChange={(value) => put({ spread: value })}
        />
      )}
    </>
  );
}

/** A pass made of fuel and hours, in the place of a sum by area. */
export function PassParts({ cost, place, locked, put }: Props) {
  const { reader, currency } = useStage();
  const [open, setOpen] = useState(Object.keys(cost.made_of).length > 0);
  const units: Record<string, [string, string][]> = {
    volume_per_area: useUnits("volume_per_area", reader),
    money_per_volume: useUnits("money_per_volume", reader).map(([code, label]) => [code, currency + label]),
    time_per_area: useUnits("time_per_area", reader),
    money_per_time: useUnits("money_per_time", reader).map(([code, label]) => [code, currency + label]),
  };
  if (locked && !open) return null;
  return (
    <tr>
      <td colSpan={7}>
        {open ? (
          <div className="flex flex-wrap gap-3 pb-1 pl-6">
            {PARTS.map(([name, label, dimension]) => (
              <div key={name} className="w-44">
                <p className="text-sm">{label}</p>
                <UnitEntry
                  label={`${label} of cost ${place + 1}`}
                  value={{
                    text: cost.made_of[name]?.text ?? "",
                    unit: cost.made_of[name]?.unit || (units[dimension]?.[0]?.[0] ?? ""),
                  }}
                  units={units[dimension] ?? []}
                  numeric
                  disabled={locked}
                  onChange={(value) => put({ made_of: { ...cost.made_of, [name]: value } })}
                />
              </div>
            ))}
          </div>
        ) : (
          <button type="button" className="ml-6 underline" onClick={() => setOpen(true)}>
            From fuel and hours<span className="sr-only"> for cost {place + 1}</span>
          </button>
        )}
      </td>
    </tr>
  );
}
