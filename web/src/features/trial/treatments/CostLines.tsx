import { Fragment } from "react";
import { useCatalogue } from "../../../api/queries";
import { CostAmount, PassParts, useCostUnits } from "./CostAmount";
import { type Basis, type CostDraft, type Draft, levelsOf, type Units } from "./draft";
import { NotedHours } from "./NotedHours";

type Props = {
  draft: Draft;
  titles: string[];
  units: Units;
  locked: boolean;
  change: (draft: Draft) => void;
};

/** What a level costs wherever it stands: products, passes, a share of a machine. Seed follows rate and bag price. */
export function CostLines({ draft, titles, units, locked, change }: Props) {
  const catalogue = useCatalogue();
  const choices = draft.factors.flatMap((_, factor) =>
    levelsOf(draft, factor).map((level) => ({ factor, level, name: `${titles[factor]}: ${level.text}` })),
  );
  const usual = useCostUnits();
  /** Another way of reckoning asks for another unit: the amount stays, in the first unit it can have. */
  const reckonedAs = (basis: Basis, cost: CostDraft): Partial<CostDraft> => ({
    basis,
    each: { text: cost.each.text, unit: usual.each[basis][0]?.[0] ?? "" },
    spread: { text: cost.spread.text, unit: cost.spread.unit || (usual.spread[0]?.[0] ?? "") },
  });
  const put = (key: string, part: Partial<CostDraft>) =>
    change({ ...draft, costs: draft.costs.map((cost) => (cost.key === key ? { ...cost, ...part } : cost)) });
  const indexOf = (cost: CostDraft) =>
    choices.findIndex(
      (choice) =>
        choice.factor === cost.factor &&
        choice.level.text.trim() === cost.level.text.trim() &&
        choice.level.unit === cost.level.unit,
    );
  return (
    <section aria-label="Costs by level" className="mt-4">
      <h3>Costs by level</h3>
      {!locked && <NotedHours draft={draft} change={change} />}
      {draft.costs.length > 0 && (
        <table className="figures">
          <thead>
            <tr>
              <th>Level</th>
              <th>Kind</th>
              <th>What</th>
              <th>Times</th>
              <th>Reckoned</th>
              <th>Each</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {draft.costs.map((cost, place) => (
              <Fragment key={cost.key}>
                <tr>
                  <td>
                    <select
                      aria-label={`Level of cost ${place + 1}`}
                      className="entry"
                      value={indexOf(cost)}
                      disabled={locked}
                      onChange={(event) => {
                        const choice = choices[Number(event.target.value)];
                        if (choice) put(cost.key, { factor: choice.factor, level: choice.level });
                      }}
                    >
                      {indexOf(cost) < 0 && <option value={-1}>{cost.level.text} (no longer there)</option>}
                      {choices.map((choice, index) => (
                        <option key={choice.name} value={index}>
                          {choice.name}
                        </option>
                      ))}
                    </select>
                  </td>
                  <td>
                    <select
                      aria-label={`Kind of cost ${place + 1}`}
                      className="entry"
                      value={cost.kind}
                      disabled={locked}
                      onChange={(event) => put(cost.key, { kind: event.target.value as CostDraft["kind"] })}
                    >
                      {catalogue.data?.cost_kinds.map(([kind, name]) => (
                        <option key={kind} value={kind}>
                          {name}
                        </option>
                      ))}
                    </select>
                  </td>
                  <td>
                    <input
                      aria-label={`What cost ${place + 1} is for`}
                      className="entry"
                      value={cost.label}
                      disabled={locked}
                      onChange={(event) => put(cost.key, { label: event.target.value })}
                    />
                  </td>
                  <td>
                    <input
                      aria-label={`Times of cost ${place + 1}`}
                      className="entry w-16 text-right"
                      inputMode="decimal"
                      value={cost.times}
                      disabled={locked}
                      onChange={(event) => put(cost.key, { times: event.target.value })}
                    />
                  </td>
                  <td>
                    <select
                      aria-label={`How cost ${place + 1} is reckoned`}
                      className="entry"
                      value={cost.basis}
                      disabled={locked}
                      onChange={(event) => put(cost.key, reckonedAs(event.target.value as Basis, cost))}
                    >
                      {catalogue.data?.cost_bases.map(([basis, name]) => (
                        <option key={basis} value={basis}>
                          {name}
                        </option>
                      ))}
                    </select>
                  </td>
                  <td>
                    <CostAmount cost={cost} place={place} locked={locked} put={(part) => put(cost.key, part)} />
                  </td>
                  <td>
                    {!locked && (
                      <button
                        type="button"
                        className="underline"
                        onClick={() =>
                          change({ ...draft, costs: draft.costs.filter((costDraft) => costDraft.key !== cost.key) })
                        }
                      >
                        Remove<span className="sr-only"> cost {place + 1}</span>
                      </button>
                    )}
                  </td>
                </tr>
                {cost.kind === "passes" && cost.basis === "area" && (
                  <PassParts cost={cost} place={place} locked={locked} put={(part) => put(cost.key, part)} />
                )}
              </Fragment>
            ))}
          </tbody>
        </table>
      )}
      {!locked && choices[0] && (
        <button
          type="button"
          className="underline"
          onClick={() =>
            choices[0] &&
            change({
              ...draft,
              costs: [
                ...draft.costs,
                {
                  key: crypto.randomUUID(),
                  factor: choices[0].factor,
                  level: choices[0].level,
                  kind: "product",
                  label: "",
                  times: "1",
                  each: { text: "", unit: units.money },
                  basis: "area",
                  spread: { text: "", unit: "" },
                  made_of: {},
                },
              ],
            })
          }
        >
          Add a cost line
        </button>
      )}
      <p className="muted text-sm">
        Seed is reckoned from rate and bag price where the Seed page has them, and wheel tracks are put in from there;
        do not count them twice. A sum for the trial or a machine's year is spread over the area it serves.
      </p>
    </section>
  );
}
