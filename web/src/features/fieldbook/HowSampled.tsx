import type { Schemas, Typed } from "../../api/client";
import { QuantityField } from "../../ui/fields";
import type { ReaderUnits } from "../../ui/readerUnits";

type Method = Schemas["MethodOut"];
/** How yield is sampled in this trial; it stays as it was last time. */
export type HowTaken = {
  method: string;
  byEye: boolean;
  length: Typed;
  area: Typed;
  framed: boolean;
  /** Unit by entry, where another than the reader's first was chosen. */
  units: Record<string, string>;
};

const place = (trialId: string) => `sampled:${trialId}`;

export function howTaken(trialId: string, estimates: Schemas["EstimatesOut"]): HowTaken {
  const method = estimates.methods[0] as Method;
  const isArea = /2$/.test(estimates.sample.unit);
  const usual: HowTaken = {
    method: estimates.method,
    byEye: false,
    length: isArea ? { text: "1", unit: "m" } : { text: estimates.sample.text, unit: estimates.sample.unit },
    area: isArea ? { text: estimates.sample.text, unit: estimates.sample.unit } : { text: "0.25", unit: "m2" },
    framed: method.framed || isArea,
    units: {},
  };
  try {
    const kept = JSON.parse(localStorage.getItem(place(trialId)) ?? "{}") as Partial<HowTaken>;
    // a plan made since says how its places are sampled
    if (estimates.plan) return { ...usual, units: kept.units ?? {} };
    return kept.method === estimates.method ? { ...usual, ...kept } : usual;
  } catch {
    return usual;
  }
}
export const storeTaken = (trialId: string, how: HowTaken) => localStorage.setItem(place(trialId), JSON.stringify(how));

type Props = {
  how: HowTaken;
  methods: Method[];
  method: Method;
  spacing: string | null;
  reader: ReaderUnits;
  planned: boolean;
  onChange: (how: HowTaken) => void;
};

/** Method, area, and whether the place was drawn: folded away, for it seldom changes. */
export function HowSampled({ how, methods, method, spacing, reader, planned, onChange }: Props) {
  const put = (part: Partial<HowTaken>) => onChange({ ...how, ...part });
  const area = how.framed
    ? `${how.area.text} ${how.area.unit.replace(/2$/, "²")}`
    : `${how.length.text} ${how.length.unit} of row`;
  return (
    <details className="sheet mt-1 px-2">
      <summary className="min-h-12 content-center">
        {method.name}, {area}
        {!how.framed && spacing && ` at ${spacing}`}
        {how.byEye && ", by eye"}
      </summary>
      <div className="grid grid-cols-2 gap-2 pb-2">
        <label>
          Method
          <select
            className="entry"
            value={method.key}
            onChange={(event) => {
              const next = methods.find((item) => item.key === event.target.value);
              put({ method: event.target.value, framed: next?.framed ?? how.framed });
            }}
          >
            {methods.map((item) => (
              <option key={item.key} value={item.key}>
                {item.name}
              </option>
            ))}
          </select>
        </label>
        <label>
          Area
          <select
            className="entry"
            value={how.framed ? "frame" : "row"}
            disabled={method.framed}
            onChange={(event) => put({ framed: event.target.value === "frame" })}
          >
            <option value="row">a length of row</option>
            <option value="frame">a frame</option>
          </select>
        </label>
        {how.framed ? (
          <QuantityField
            label="Area of the frame"
            dimension="area"
            reader={reader}
            value={how.area}
            onCommit={(next) => put({ area: next })}
          />
        ) : (
          <QuantityField
            label="Length of row"
            dimension="length"
            reader={reader}
            value={how.length}
            onCommit={(length) => put({ length })}
          />
        )}
        <label className="flex min-h-12 items-center gap-2 self-end">
          <input
            type="checkbox"
            className="size-6"
            checked={how.byEye || !planned}
            disabled={!planned}
            onChange={(event) => put({ byEye: event.target.checked })}
          />
          Chosen by eye
        </label>
      </div>
    </details>
  );
}
