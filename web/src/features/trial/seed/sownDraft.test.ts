import { describe, expect, it } from "vitest";
import type { Schemas, Trial } from "../../../api/client";
import { METRIC, US } from "../../../tests/readers";
import { levelsOf, newPart, partsOf, sharesLeft } from "./sownDraft";

describe("what is sown", () => {
  it("takes parts as they were typed, without what the server says about them", () => {
    const seed = {
      parts: [
        {
          part: "companion",
          lot_id: "l1",
          lot_title: "Cowpea",
          crop_name: "Other crop",
          level_id: 4,
          level_name: "150 cm",
          share: { text: "", unit: "", shown: null },
          share_by: "weight",
          rate: { text: "24", unit: "kg/ha", shown: "18.3 /m²" },
          place: "between",
        },
      ],
    } as unknown as Schemas["SeedStageOut"];
    expect(partsOf(seed)).toEqual([
      {
        part: "companion",
        lot_id: "l1",
        level_id: 4,
        share: { text: "", unit: "%" },
        share_by: "weight",
        rate: { text: "24", unit: "kg/ha" },
        place: "between",
      },
    ]);
  });
  it("starts a companion between the rows, in the reader's units", () => {
    expect(newPart("l1", "companion", US)).toMatchObject({ place: "between", rate: { text: "", unit: "lb/ac" } });
    expect(newPart("l1", "crop", METRIC)).toMatchObject({ place: "in_row", level_id: null });
  });
  it("says what the shares of a mixture leave open", () => {
    const part = (text: string) => ({ ...newPart("l1", "mixture", METRIC), share: { text, unit: "%" } });
    expect(sharesLeft([part("70"), part("30")])).toBe("");
    expect(sharesLeft([part("70"), part("27,5")])).toBe("Shares add up to 97.5 % so far.");
    expect(sharesLeft([newPart("l1", "crop", METRIC)])).toBe("");
  });
  it("names levels by their factor", () => {
    const trial = {
      factors: [{ title: "Row spacing", level_names: ["75 cm", "150 cm"], level_ids: [3, 4] }],
    } as unknown as Trial;
    expect(levelsOf(trial)).toEqual([
      ["3", "Row spacing: 75 cm"],
      ["4", "Row spacing: 150 cm"],
    ]);
  });
});
