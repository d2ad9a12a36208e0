import type { Schemas, Typed } from "../../api/client";
import { ChoiceField, QuantityField, TextField } from "../../ui/fields";
import { blankIn, type ReaderUnits } from "../../ui/readerUnits";

export type Sown = {
  machine_id: string;
  soil: NonNullable<Schemas["PlantingRecordIn"]["soil"]>;
  weather: string;
  speed: Typed;
  /** Setting of the drill by treatment, so that it is typed once for each. */
  settings: Record<string, string>;
};

const place = (trialId: string) => `sown:${trialId}`;

export function sownFor(trialId: string, reader: ReaderUnits): Sown {
  const blank: Sown = {
    machine_id: "",
    soil: "",
    weather: "",
    speed: blankIn(reader, "speed"),
    settings: {},
  };
  try {
    const stored = localStorage.getItem(place(trialId));
    return stored ? { ...blank, ...(JSON.parse(stored) as Partial<Sown>) } : blank;
  } catch {
    return blank; // an unreadable note of the last strip is no reason to stop sowing
  }
}

export const storeSown = (trialId: string, sown: Sown) => localStorage.setItem(place(trialId), JSON.stringify(sown));

type Props = {
  sown: Sown;
  treatmentId: string;
  machines: [string, string][];
  soils: [string, string][];
  reader: ReaderUnits;
  onChange: (sown: Sown) => void;
};

/** One line that says how strips are sown; it opens to change it, and holds until changed. */
export function HowSown({ sown, treatmentId, machines, soils, reader, onChange }: Props) {
  const put = (part: Partial<Sown>) => onChange({ ...sown, ...part });
  const setting = sown.settings[treatmentId] ?? "";
  const words = [
    setting && `setting ${setting}`,
    machines.find(([id]) => id === sown.machine_id)?.[1],
    sown.speed.text && `${sown.speed.text} ${sown.speed.unit}`,
    soils.find(([key]) => key === sown.soil)?.[1].toLowerCase(),
    sown.weather,
  ].filter(Boolean);
  return (
    <details className="sheet mt-1.5 px-2">
      <summary className="min-h-12 cursor-pointer content-center">
        {words.join(", ") || "Setting, drill, speed, soil: say once, kept for every strip"}
      </summary>
      <div className="grid grid-cols-2 gap-2 pb-2">
        <TextField
          label="Setting"
          inputMode="decimal"
          value={setting}
          onCommit={(text) => put({ settings: { ...sown.settings, [treatmentId]: text } })}
        />
        <ChoiceField
          label="Drill"
          value={sown.machine_id}
          options={[["", "not said"], ...machines]}
          onCommit={(machine_id) => put({ machine_id })}
        />
        <QuantityField
          label="Speed"
          dimension="speed"
          reader={reader}
          value={sown.speed}
          onCommit={(speed) => put({ speed })}
        />
        <ChoiceField
          label="Soil"
          value={sown.soil}
          options={[["", "not said"], ...soils]}
          onCommit={(soil) => put({ soil: soil as Sown["soil"] })}
        />
        <div className="col-span-2">
          <TextField label="Weather" value={sown.weather} onCommit={(weather) => put({ weather })} />
        </div>
      </div>
    </details>
  );
}
