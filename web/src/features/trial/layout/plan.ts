import type { Schemas, Trial, Typed } from "../../../api/client";
import type { ReaderUnits } from "../../../ui/readerUnits";

export type Design = Schemas["LayoutIn"]["design"];
export type Plan = Omit<Schemas["LayoutIn"], "version" | "amendment" | "blocks" | "seed" | "guards" | "tiers"> & {
  blocks: string;
  seed: string;
  guards: string;
  tiers: string;
};

/** The form as it was last asked for, so that a redraw starts from what stands. */
export function planOf(trial: Trial, reader: ReaderUnits): Plan {
  const asked = trial.layout.asked as Partial<Schemas["LayoutIn"]>;
  const unit = reader.of.strip_width ?? "m";
  const length = (value?: Typed): Typed => ({ text: value?.text ?? "", unit: value?.unit || unit });
  return {
    design: (asked.design ?? (trial.design || "rcbd")) as Design,
    blocks: String(asked.blocks ?? (trial.blocks > 1 ? trial.blocks : 4)),
    strip_width: length(asked.strip_width),
    strip_length: length(asked.strip_length),
    seed: "",
    main: asked.main ?? null,
    sub: asked.sub ?? null,
    machines: asked.machines ?? [],
    heading: asked.heading ?? "",
    headland: length(asked.headland),
    side: length(asked.side),
    alley: length(asked.alley),
    swath: length(asked.swath),
    guards: String(asked.guards ?? 0),
    tiers: String(asked.tiers ?? 1),
    no_equal_neighbours: asked.no_equal_neighbours ?? false,
    balance_neighbours: asked.balance_neighbours ?? false,
    first: asked.first ?? null,
  };
}

/** What is sent, or why a whole number is none. */
export function bodyOf(plan: Plan): Omit<Schemas["LayoutIn"], "version" | "amendment"> | string {
  const whole: Record<string, number | null> = {};
  for (const [key, name] of [
    ["blocks", "Blocks"],
    ["seed", "The seed of the draw"],
    ["guards", "Guard strips"],
    ["tiers", "Rows of blocks"],
  ] as const) {
    const text = plan[key].trim();
    if (key === "seed" && !text) whole.seed = null;
    else if (/^\d+$/.test(text)) whole[key] = Number(text);
    else return `${name} must be a whole number; got “${text}”.`;
  }
  return {
    ...plan,
    blocks: whole.blocks ?? 0,
    seed: whole.seed ?? null,
    guards: whole.guards ?? 0,
    tiers: whole.tiers ?? 1,
  };
}
