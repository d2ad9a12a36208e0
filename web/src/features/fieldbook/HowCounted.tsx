import type { Schemas, Trial, Typed } from "../../api/client";
import { ChoiceField, QuantityField, TextField } from "../../ui/fields";
import { HANDY_FRAME, HANDY_HOOP, handyIn, type ReaderUnits } from "../../ui/readerUnits";
import { areaM2, lengthM, METRES_PER_INCH } from "./running";

export type Method = {
  method: "rows" | "quadrat" | "hoop";
  length: Typed;
  rows: string;
  row_spacing: Typed;
  ownSpacing: boolean;
  area: Typed;
  diameter: Typed;
  by_eye: boolean;
  blind: boolean;
};

const place = (trialId: string) => `count:${trialId}`;

/** As it was last counted in this trial, else the tape value for the strip's row spacing. */
export function methodFor(
  trial: Trial,
  stand: Schemas["StandOut"],
  spacing: { text: string; unit: string; shown?: string | null } | undefined,
  reader: ReaderUnits,
): Method {
  try {
    const stored = localStorage.getItem(place(trial.id));
    if (stored) return { ...usual(stand, spacing, reader), ...(JSON.parse(stored) as Method) };
  } catch {
    // an unreadable note of the last method is no reason to stop counting
  }
  return usual(stand, spacing, reader);
}

const typedOf = (typed: Typed): Typed => ({ text: typed.text, unit: typed.unit });

/** The plan's own length and rows, else the tape value for the row spacing. */
function usual(
  stand: Schemas["StandOut"],
  spacing: { text: string; unit: string; shown?: string | null } | undefined,
  reader: ReaderUnits,
): Method {
  const tape = stand.tapes.find((item) => item.row_spacing === spacing?.shown) ?? stand.tapes[0];
  const { plan } = stand;
  if (plan && !plan.framed)
    return {
      ...usual({ ...stand, plan: null }, spacing, reader),
      length: typedOf(plan.sample),
      rows: String(plan.rows),
    };
  const length = lengthOf(tape, reader.of.row_length === "ft");
  return {
    method: "rows",
    length,
    rows: String(tape?.rows ?? 1),
    row_spacing: { text: spacing?.text ?? "", unit: spacing?.unit || (reader.of.row_spacing ?? "cm") },
    ownSpacing: false,
    area: handyIn(reader, "sample_area", HANDY_FRAME),
    diameter: handyIn(reader, "hoop", HANDY_HOOP),
    by_eye: false,
    blind: false,
  };
}

/** A tape value to start from: metres; inches, or feet and inches where it is long. */
function lengthOf(tape: Schemas["TapeOut"] | undefined, feet: boolean): Typed {
  if (!feet) return { text: tape ? tape.tape_m.toFixed(2) : "1", unit: "m" };
  if (tape?.tape.includes("ft")) return { text: tape.tape, unit: "ft" };
  return { text: tape ? (tape.tape_m / METRES_PER_INCH).toFixed(0) : "", unit: "in" };
}

/** A length with its unit, unless its text holds both. */
const lengthWords = ({ text, unit }: Typed) => (/[a-z]/i.test(text) ? text : `${text} ${unit}`);

export const storeMethod = (trialId: string, method: Method) =>
  localStorage.setItem(place(trialId), JSON.stringify(method));

/** Why a count cannot be turned into plants per area yet; empty when it can. */
export function sizeProblem(method: Method, spacing: Typed): string {
  const rows = Number(method.rows);
  if (method.method === "rows" && (!lengthM(method.length) || !lengthM(spacing) || !Number.isInteger(rows) || rows < 1))
    return "Say first how it is counted: length of row, number of rows and row spacing must be more than 0.";
  if (method.method === "quadrat" && !areaM2(method.area))
    return "Say first how it is counted: the area of the frame must be more than 0.";
  if (method.method === "hoop" && !lengthM(method.diameter))
    return "Say first how it is counted: the diameter of the hoop must be more than 0.";
  return "";
}

type Props = {
  method: Method;
  spacing: Typed & { shown?: string | null };
  reader: ReaderUnits;
  onChange: (method: Method) => void;
};

/** One line that says how plants are counted; it opens to change it. */
export function HowCounted({ method, spacing, reader, onChange }: Props) {
  const put = (part: Partial<Method>) => onChange({ ...method, ...part });
  const words =
    method.method === "rows"
      ? `${method.rows} × ${lengthWords(method.length)} of row at ${spacing.shown ?? `${spacing.text || "?"} ${spacing.unit}`}`
      : method.method === "hoop"
        ? `hoop ${method.diameter.text} ${method.diameter.unit} across`
        : `frame of ${method.area.text} ${method.area.unit}`;
  return (
    <details className="sheet mt-1 px-2">
      <summary className="min-h-12 cursor-pointer content-center">
        {words}
        {method.by_eye && ", place chosen by eye"}
        {method.blind && ", blind"}
      </summary>
      <div className="grid grid-cols-2 gap-2 pb-2">
        <ChoiceField
          label="Counted"
          value={method.method}
          options={[
            ["rows", "along rows"],
            ["quadrat", "in a frame"],
            ["hoop", "in a hoop"],
          ]}
          onCommit={(value) => put({ method: value as Method["method"] })}
        />
        {method.method === "rows" ? (
          <>
            <TextField label="Rows" inputMode="numeric" value={method.rows} onCommit={(rows) => put({ rows })} />
            <QuantityField
              label="Length of row"
              dimension="length"
              reader={reader}
              value={method.length}
              onCommit={(length) => put({ length })}
            />
            <QuantityField
              label="Row spacing"
              dimension="length"
              reader={reader}
              value={spacing}
              onCommit={(row_spacing) => put({ row_spacing, ownSpacing: true })}
            />
          </>
        ) : method.method === "hoop" ? (
          <QuantityField
            label="Diameter of the hoop"
            dimension="length"
            reader={reader}
            value={method.diameter}
            onCommit={(diameter) => put({ diameter })}
          />
        ) : (
          <QuantityField
            label="Area of the frame"
            dimension="area"
            reader={reader}
            value={method.area}
            onCommit={(area) => put({ area })}
          />
        )}
        <label className="flex min-h-12 items-center gap-2">
          <input type="checkbox" checked={method.by_eye} onChange={(event) => put({ by_eye: event.target.checked })} />
          Place chosen by eye
        </label>
        <label className="flex min-h-12 items-center gap-2">
          <input type="checkbox" checked={method.blind} onChange={(event) => put({ blind: event.target.checked })} />
          Blind: strip numbers only
        </label>
      </div>
    </details>
  );
}
