import { useMemo } from "react";
import type { Trial, Typed } from "../api/client";
import { useCatalogue } from "../api/queries";
import { useHere } from "../app/Gate";

/** Units as this person reads them: the code for each kind of quantity, and all codes that belong where they are. */
export type ReaderUnits = { of: Record<string, string>; own: string[] };

/** What a device kept from before units came from the server: the catalogue's own order then decides. */
const NONE: string[] = [];

/** The units of a trial's crop, or those of the workspace where there is no trial. */
export function useReaderUnits(trial?: Trial): ReaderUnits {
  const { workspace } = useHere();
  const of = trial?.units ?? workspace.units;
  const own = workspace.own_units ?? NONE;
  return useMemo(() => ({ of: of ?? {}, own }), [of, own]);
}

/** An empty quantity, in the unit that this person has for its kind. */
export const blankIn = (reader: ReaderUnits, kind: string): Typed => ({ text: "", unit: reader.of[kind] ?? "" });

/** A quantity to start from, a handy number of whichever unit this person has for its kind. */
export const handyIn = (reader: ReaderUnits, kind: string, texts: Record<string, string>): Typed => {
  const unit = reader.of[kind] ?? "";
  return { text: texts[unit] ?? "", unit };
};
export const HANDY_FRAME = { m2: "0.25", ft2: "2.5" };
export const HANDY_HOOP = { cm: "56.4", in: "28.25" };
export const HANDY_END = { m: "5", ft: "16" };

/** A number with so many decimals; below 0 it is rounded to tens and hundreds. */
export const fixed = (value: number, decimals: number) =>
  decimals >= 0 ? value.toFixed(decimals) : (Math.round(value * 10 ** decimals) / 10 ** decimals).toFixed(0);

/** Crops to choose from: the workspace's own, those of its region, the rest. */
export function useCropChoices(): [string, string][] {
  const { workspace } = useHere();
  const catalogue = useCatalogue().data?.crops;
  // an answer kept on the device from before crops came with the workspace
  const crops = workspace.crops ?? catalogue?.map((item) => ({ ...item, relative: "" })) ?? [];
  return crops.map((crop) => [
    crop.key,
    crop.relative ? `${crop.name} (as ${crop.relative.toLowerCase()})` : crop.name,
  ]);
}
