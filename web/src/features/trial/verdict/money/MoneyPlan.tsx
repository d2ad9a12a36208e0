import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type Schemas, type Trial, type Typed } from "../../../../api/client";
import { faultOf, useSaving } from "../../../../app/saving";
import { useUnits } from "../../../../ui/fields";
import { Problem } from "../../../../ui/Problem";
import { UnitEntry } from "../../../../ui/UnitEntry";
import { useStage } from "../../TrialFrame";

type Plan = Schemas["MoneyPlanOut"];
type Row = Schemas["ScenarioIn"] & { key: string };
const SETTINGS = [
  ["minimum_rate", "Least return on extra money", "percent"],
  ["within", "Money that counts as equal", "money_per_area"],
  ["loss", "Loss of yield one would bear", "money_per_area"],
  ["swing", "Prices and costs swing by", "percent"],
] as const;
const typed = (item: Typed): Typed => ({ text: item.text, unit: item.unit });

/** What the money is judged by, and other prices to hold it against. Kept whole, so that nothing half-typed counts. */
export function MoneyPlan({ money, trial }: { money: Schemas["MoneyOut"]; trial: Trial }) {
  const { reader, currency } = useStage();
  const cache = useQueryClient();
  const { save } = useSaving();
  const prices = useUnits("price", reader).map(([code, label]): [string, string] => [code, currency + label]);
  const monies = useUnits("money_per_area", reader).map(([code, label]): [string, string] => [code, currency + label]);
  const [plan, setPlan] = useState<Plan>(money.plan);
  const [rows, setRows] = useState<Row[]>(
    money.plan.scenarios.map((scenario, place) => ({ ...scenario, key: `kept ${place}` })),
  );
  const [problem, setProblem] = useState("");
  const put = (key: string, part: Partial<Row>) =>
    setRows((now) => now.map((row) => (row.key === key ? { ...row, ...part } : row)));
  async function keep() {
    setProblem("");
    const body = {
      version: money.plan.version,
      ...Object.fromEntries(SETTINGS.map(([name]) => [name, typed(plan[name])])),
      scenarios: rows.map(({ key: _, ...row }) => row),
    } as Schemas["MoneyPlanIn"];
    try {
      await save(() =>
        ask(client.PUT("/api/trials/{trial_id}/money", { params: { path: { trial_id: trial.id } }, body })),
      );
      await cache.invalidateQueries({ queryKey: ["verdict", trial.id, "money"] });
    } catch (error) {
      setProblem(faultOf(error).message);
    }
  }
  const add = () =>
    setRows((now) => [
      ...now,
      {
        key: crypto.randomUUID(),
        name: "",
        source: "",
        price: { text: "", unit: trial.price.unit },
        unit_cost: { text: "", unit: trial.unit_cost.unit || trial.price.unit },
        costs: { text: "", unit: "%" },
      },
    ]);
  return (
    <details className="no-print mt-4">
      <summary className="cursor-pointer font-semibold">What the money is judged by, and scenarios</summary>
      <div className="mt-2 flex flex-wrap gap-4">
        {SETTINGS.map(([name, label, dimension]) => (
          <div key={name}>
            <p className="font-medium">{label}</p>
            <UnitEntry
              label={label}
              value={{
                text: plan[name].text,
                unit: plan[name].unit || (dimension === "percent" ? "%" : (monies[0]?.[0] ?? "")),
              }}
              units={dimension === "percent" ? [["%", "%"]] : monies}
              numeric
              onChange={(value) => setPlan((now) => ({ ...now, [name]: { ...now[name], ...value } }))}
            />
            {!plan[name].text && <p className="muted text-sm">{plan[name].shown ?? "as the margin in money"}</p>}
          </div>
        ))}
      </div>
      {rows.length > 0 && (
        <table className="figures mt-2">
          <thead>
            <tr>
              <th>Scenario</th>
              <th>Price</th>
              <th>With the yield</th>
              <th>Extra costs, % of today's</th>
              <th>Source</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {rows.map((row, place) => (
              <tr key={row.key}>
                <td>
                  <input
                    aria-label={`Name of scenario ${place + 1}`}
                    className="entry"
                    value={row.name}
                    onChange={(event) => put(row.key, { name: event.target.value })}
                  />
                </td>
                <td>
                  <UnitEntry
                    label={`Price in scenario ${place + 1}`}
                    value={row.price ?? { text: "", unit: "" }}
                    units={prices}
                    numeric
                    onChange={(price) => put(row.key, { price })}
                  />
                </td>
                <td>
                  <UnitEntry
                    label={`Cost with the yield in scenario ${place + 1}`}
                    value={row.unit_cost ?? { text: "", unit: "" }}
                    units={prices}
                    numeric
                    onChange={(unit_cost) => put(row.key, { unit_cost })}
                  />
                </td>
                <td>
                  <input
                    aria-label={`Extra costs in scenario ${place + 1}`}
                    className="entry w-20 text-right"
                    inputMode="decimal"
                    value={row.costs?.text ?? ""}
                    onChange={(event) => put(row.key, { costs: { text: event.target.value, unit: "%" } })}
                  />
                </td>
                <td>
                  <input
                    aria-label={`Source of scenario ${place + 1}`}
                    className="entry"
                    value={row.source}
                    onChange={(event) => put(row.key, { source: event.target.value })}
                  />
                </td>
                <td>
                  <button
                    type="button"
                    className="underline"
                    onClick={() => setRows((now) => now.filter((item) => item.key !== row.key))}
                  >
                    Remove<span className="sr-only"> scenario {place + 1}</span>
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <div className="mt-2 flex gap-3">
        <button type="button" className="plain" onClick={add}>
          Add a scenario
        </button>
        <button type="button" className="act" onClick={() => void keep()}>
          Keep
        </button>
      </div>
      <Problem>{problem}</Problem>
    </details>
  );
}
