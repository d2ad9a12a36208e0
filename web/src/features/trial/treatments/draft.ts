import type { Schemas, Trial, Typed } from "../../../api/client";

export type Kind = Schemas["FactorIn"]["kind"];
export type FactorDraft = { key: string; kind: Kind; name: string; hard_to_change: boolean };
export type RowDraft = { key: string; id: string | null; levels: Typed[]; is_control: boolean; extra_cost: Typed };
export type CostDraft = {
  key: string;
  factor: number;
  level: Typed;
  kind: Schemas["CostIn"]["kind"];
  label: string;
  times: string;
  each: Typed;
  basis: Basis;
  spread: Typed;
  made_of: Record<string, Typed>;
};
export type Basis = Schemas["CostIn"]["basis"];
export type Draft = { factors: FactorDraft[]; rows: RowDraft[]; costs: CostDraft[] };
export type Units = { usual: (kind: Kind) => string; money: string; hard: (kind: Kind) => boolean };

export const DIMENSION: Partial<Record<Kind, string>> = {
  row_spacing: "length",
  seeding_rate: "seeding_rate",
  seeding_depth: "length",
};
export const MOST_TREATMENTS = 40;
const typed = (value: Typed): Typed => ({ text: value.text, unit: value.unit });

/** Levels of a factor in the order they first stand in the rows, each once. */
export function levelsOf(draft: Draft, factor: number): Typed[] {
  const seen = new Map<string, Typed>();
  for (const row of draft.rows) {
    const level = row.levels[factor];
    if (level?.text.trim()) seen.set(`${level.text.trim().toLowerCase()} ${level.unit}`, typed(level));
  }
  return [...seen.values()];
}

export const newFactor = (kind: Kind, units: Units): FactorDraft => ({
  key: crypto.randomUUID(),
  kind,
  name: "",
  hard_to_change: units.hard(kind),
});

export const newRow = (draft: Draft, units: Units): RowDraft => ({
  key: crypto.randomUUID(),
  id: null,
  levels: draft.factors.map((factor, place) => ({
    text: "",
    unit: draft.rows.at(-1)?.levels[place]?.unit ?? units.usual(factor.kind),
  })),
  is_control: false,
  extra_cost: { text: "", unit: units.money },
});

export function draftOf(trial: Trial, units: Units): Draft {
  const draft: Draft = {
    factors: trial.factors.map((factor, place) => ({
      key: `factor ${place}`,
      kind: factor.kind,
      name: factor.name,
      hard_to_change: factor.hard_to_change,
    })),
    rows: [],
    costs: [],
  };
  if (!draft.factors.length) draft.factors.push({ ...newFactor("row_spacing", units), key: "first" });
  draft.rows = trial.treatments.map((treatment) => ({
    key: treatment.id,
    id: treatment.id,
    levels: treatment.levels.map((level, place) => ({
      text: level.text,
      unit: level.unit || units.usual(draft.factors[place]?.kind ?? "free"),
    })),
    is_control: treatment.is_control,
    extra_cost: { text: treatment.extra_cost.text, unit: treatment.extra_cost.unit || units.money },
  }));
  while (draft.rows.length < 2)
    draft.rows.push({ ...newRow(draft, units), key: `row ${draft.rows.length}`, is_control: !draft.rows.length });
  draft.costs = trial.costs.map((cost, place) => ({
    key: `cost ${place}`,
    factor: cost.factor,
    level: levelsOf(draft, cost.factor)[cost.level] ?? { text: "", unit: "" },
    kind: cost.kind,
    label: cost.label,
    times: cost.times,
    each: typed(cost.each),
    basis: cost.basis,
    spread: typed(cost.spread),
    made_of: Object.fromEntries(Object.entries(cost.made_of).map(([name, value]) => [name, typed(value)])),
  }));
  return draft;
}

/** All combinations of the levels there are; rows that exist keep their id and costs. */
export function everyCombination(draft: Draft, units: Units): RowDraft[] | null {
  const levels = draft.factors.map((_, place) => levelsOf(draft, place));
  const size = levels.reduce((product, row) => product * row.length, 1);
  if (size === 0 || size > MOST_TREATMENTS) return null;
  let combinations: Typed[][] = [[]];
  for (const row of levels) combinations = combinations.flatMap((before) => row.map((level) => [...before, level]));
  const name = (row: Typed[]) => row.map((level) => `${level.text.trim().toLowerCase()} ${level.unit}`).join("|");
  const there = new Map(draft.rows.map((row) => [name(row.levels), row]));
  const rows = combinations.map(
    (combination) => there.get(name(combination)) ?? { ...newRow(draft, units), levels: combination.map(typed) },
  );
  if (!rows.some((row) => row.is_control) && rows[0]) rows[0] = { ...rows[0], is_control: true };
  return rows;
}

/** A factor added or removed; every row gets or loses its level. */
export function withFactor(draft: Draft, kind: Kind, units: Units): Draft {
  return {
    ...draft,
    factors: [...draft.factors, newFactor(kind, units)],
    rows: draft.rows.map((row) => ({ ...row, levels: [...row.levels, { text: "", unit: units.usual(kind) }] })),
  };
}
export function withoutFactor(draft: Draft, place: number): Draft {
  return {
    factors: draft.factors.filter((_, index) => index !== place),
    rows: draft.rows.map((row) => ({ ...row, levels: row.levels.filter((_, index) => index !== place) })),
    costs: draft.costs
      .filter((cost) => cost.factor !== place)
      .map((cost) => ({ ...cost, factor: cost.factor > place ? cost.factor - 1 : cost.factor })),
  };
}

/** What is sent: named levels carry no unit. */
export function bodyOf(draft: Draft): Omit<Schemas["TreatmentsIn"], "version" | "amendment"> {
  const level = (factor: number, value: Typed): Typed => {
    const kind = draft.factors[factor]?.kind;
    return kind && DIMENSION[kind] ? typed(value) : { text: value.text, unit: "" };
  };
  return {
    factors: draft.factors.map(({ key: _, ...factor }) => factor),
    treatments: draft.rows.map((row) => ({
      id: row.id,
      levels: row.levels.map((item, place) => level(place, item)),
      is_control: row.is_control,
      extra_cost: typed(row.extra_cost),
    })),
    costs: draft.costs.map(({ key: _, ...cost }) => ({
      ...cost,
      level: level(cost.factor, cost.level),
      spread: cost.spread.text.trim() ? typed(cost.spread) : { text: "", unit: "" },
    })),
  };
}
