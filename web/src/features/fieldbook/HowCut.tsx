import type { Typed } from "../../api/client";
import { ChoiceField, QuantityField } from "../../ui/fields";
import { blankIn, type ReaderUnits } from "../../ui/readerUnits";
import type { Driving } from "./driving";

/** How strips are cut, said once: swath and length where they differ from the layout, unit of the scale, the last tare. */
export type Cut = { swath: Typed; length: Typed; unit: string; tare: string; shared: boolean };

const place = (trialId: string) => `cut:${trialId}`;

export function cutFor(trialId: string, reader: ReaderUnits): Cut {
  const blank: Cut = {
    swath: blankIn(reader, "strip_width"),
    length: blankIn(reader, "strip_length"),
    unit: reader.of.mass ?? "kg",
    tare: "",
    shared: false,
  };
  try {
    const stored = localStorage.getItem(place(trialId));
    return stored ? { ...blank, ...(JSON.parse(stored) as Partial<Cut>), shared: false } : blank;
  } catch {
    return blank; // an unreadable note of the last strip is no reason to stop harvesting
  }
}

export const storeCut = (trialId: string, cut: Cut) => localStorage.setItem(place(trialId), JSON.stringify(cut));

type Props = {
  cut: Cut;
  swath: string;
  length: string;
  driving: Driving;
  reader: ReaderUnits;
  onChange: (cut: Cut) => void;
};

/** One line that says how strips are cut; it opens to change it, and holds until changed. */
export function HowCut({ cut, swath, length, driving, reader, onChange }: Props) {
  const put = (part: Partial<Cut>) => onChange({ ...cut, ...part });
  return (
    <details className="sheet mt-1.5 px-2">
      <summary className="min-h-12 cursor-pointer content-center">
        {swath || "swath not known"} × {length || "length not known"} cut, scale in {cut.unit}
      </summary>
      <div className="grid grid-cols-2 gap-2 pb-2">
        <QuantityField
          label="Swath width"
          dimension="length"
          reader={reader}
          value={cut.swath}
          hint="empty: as last cut, or the strip's own"
          onCommit={(next) => put({ swath: next })}
        />
        <QuantityField
          label="Length cut"
          dimension="length"
          reader={reader}
          value={cut.length}
          hint="empty: as laid out"
          onCommit={(next) => put({ length: next })}
        />
        <ChoiceField
          label="Scale in"
          value={cut.unit}
          options={[
            ["kg", "kg"],
            ["t", "t"],
            ["lb", "lb"],
          ]}
          onCommit={(unit) => put({ unit, tare: "" })}
        />
        <ChoiceField
          label="Driving order"
          value={driving.way}
          options={[
            ["as_laid", "as they lie"],
            ["fewest_changes", "one treatment after the other"],
          ]}
          onCommit={(way) => driving.setWay(way as Driving["way"])}
        />
        <label className="col-span-2 flex min-h-12 items-center gap-2">
          <input
            type="checkbox"
            className="h-6 w-6"
            checked={cut.shared}
            onChange={(event) => put({ shared: event.target.checked })}
          />
          Grain of another strip is in this load too
        </label>
      </div>
    </details>
  );
}
