import { useCatalogue } from "../../../api/queries";
import type { Draft, FactorDraft, Kind, Units } from "./draft";
import { withFactor, withoutFactor } from "./draft";

const HINTS: Record<Kind, string> = {
  row_spacing: "such as a narrow width against the usual one",
  seeding_rate: "by count, weight, plants wanted or bags; the Seed page holds what that needs",
  seeding_depth: "such as shallow against deep",
  tillage: "such as strip till against plough",
  sowing_date: "such as early against late; each strip has its own day",
  free: "one thing only, named beside it",
};
type Props = { draft: Draft; units: Units; locked: boolean; change: (draft: Draft) => void };

/** What is varied: one line for each factor. */
export function FactorBar({ draft, units, locked, change }: Props) {
  const catalogue = useCatalogue();
  const several = draft.factors.length > 1;
  const put = (place: number, part: Partial<FactorDraft>, kind?: Kind) =>
    change({
      ...draft,
      factors: draft.factors.map((factor, index) => (index === place ? { ...factor, ...part } : factor)),
      rows: kind
        ? draft.rows.map((row) => ({
            ...row,
            levels: row.levels.map((level, index) =>
              index === place ? { text: level.text, unit: units.usual(kind) } : level,
            ),
          }))
        : draft.rows,
    });
  const free = catalogue.data?.factor_kinds.find(([kind]) => !draft.factors.some((factor) => factor.kind === kind));
  return (
    <div className="mb-3 space-y-1.5">
      {draft.factors.map((factor, place) => (
        <div key={factor.key} className="flex flex-wrap items-end gap-3">
          <label>
            {several ? `Factor ${place + 1}` : "What is varied"}
            <select
              className="entry"
              value={factor.kind}
              disabled={locked}
              onChange={(event) => {
                const kind = event.target.value as Kind;
                put(place, { kind, hard_to_change: units.hard(kind) }, kind);
              }}
            >
              {catalogue.data?.factor_kinds.map(([key, name]) => (
                <option key={key} value={key}>
                  {name}
                </option>
              ))}
            </select>
          </label>
          {factor.kind === "free" && (
            <label>
              Its name
              <input
                className="entry"
                value={factor.name}
                disabled={locked}
                onChange={(event) => put(place, { name: event.target.value })}
              />
            </label>
          )}
          <label className="flex items-center gap-2 pb-1.5">
            <input
              type="checkbox"
              checked={factor.hard_to_change}
              disabled={locked}
              onChange={(event) => put(place, { hard_to_change: event.target.checked })}
            />
            hard to change on the go
          </label>
          {several && !locked && (
            <button type="button" className="pb-1.5 underline" onClick={() => change(withoutFactor(draft, place))}>
              Remove<span className="sr-only"> factor {place + 1}</span>
            </button>
          )}
          {!several && <p className="muted pb-1">{HINTS[factor.kind]}</p>}
        </div>
      ))}
      {!locked && draft.factors.length < 5 && (
        <button
          type="button"
          className="underline"
          onClick={() => change(withFactor(draft, (free?.[0] ?? "free") as Kind, units))}
        >
          Add a factor
        </button>
      )}
    </div>
  );
}
