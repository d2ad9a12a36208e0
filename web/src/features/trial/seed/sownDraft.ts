import type { Schemas, Trial } from "../../../api/client";
import { blankIn, type ReaderUnits } from "../../../ui/readerUnits";

export type Part = Schemas["SownIn"];
export type PartKind = Part["part"];

/** Parts as they stand, without what the server says about them. */
export function partsOf(seed: Schemas["SeedStageOut"]): Part[] {
  return seed.parts.map((part) => ({
    part: part.part,
    lot_id: part.lot_id,
    level_id: part.level_id,
    share: { text: part.share.text, unit: part.share.unit || "%" },
    share_by: part.share_by,
    rate: { text: part.rate.text, unit: part.rate.unit },
    place: part.place,
  }));
}

export function newPart(lotId: string, kind: PartKind, reader: ReaderUnits): Part {
  return {
    part: kind,
    lot_id: lotId,
    level_id: null,
    share: { text: "", unit: "%" },
    share_by: "weight",
    rate: blankIn(reader, "seed_rate_mass"),
    place: kind === "companion" ? "between" : "in_row",
  };
}

/** Levels a part can be bound to, as “Row spacing: 75 cm”. */
export function levelsOf(trial: Trial): [string, string][] {
  return trial.factors.flatMap((factor) =>
    factor.level_names.map((name, place): [string, string] => [
      String(factor.level_ids[place] ?? ""),
      `${factor.title}: ${name}`,
    ]),
  );
}

/** What the shares of a mixture leave open, in words; empty when they add up or there is no mixture. */
export function sharesLeft(parts: Part[]): string {
  const mixed = parts.filter((part) => part.part === "mixture");
  if (!mixed.length) return "";
  const whole = mixed.reduce((sum, sown) => sum + (Number(sown.share?.text.replace(",", ".")) || 0), 0);
  return Math.abs(whole - 100) < 0.1 ? "" : `Shares add up to ${Number(whole.toFixed(2))} % so far.`;
}
