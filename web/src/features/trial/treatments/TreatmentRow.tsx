import type { Treatment } from "../../../api/client";
import { Stake } from "../../../ui/marks";
import { UnitEntry } from "../../../ui/UnitEntry";
import { Worked } from "../../../ui/working";
import type { RowDraft } from "./draft";

type Props = {
  row: RowDraft;
  place: number;
  saved: Treatment | undefined;
  columns: { title: string; units: [string, string][] }[];
  monies: [string, string][];
  locked: boolean;
  bound: boolean;
  put: (part: Partial<RowDraft>) => void;
  control: () => void;
  remove: (() => void) | null;
};

export const letterOf = (place: number) =>
  (place >= 26 ? String.fromCharCode(64 + Math.floor(place / 26)) : "") + String.fromCharCode(65 + (place % 26));

/** One treatment: its level of every factor, its costs, and the gain that pays for them. */
export function TreatmentRow({ row, place, saved, columns, monies, locked, bound, put, control, remove }: Props) {
  const letter = letterOf(place);
  return (
    <tr>
      <td>
        <Stake letter={letter} position={place} />
      </td>
      {columns.map((column, index) => (
        <td key={column.title} className={column.units.length ? "min-w-44" : "min-w-40"}>
          <UnitEntry
            label={columns.length > 1 ? `${column.title} of ${letter}` : `Level of ${letter}`}
            value={row.levels[index] ?? { text: "", unit: "" }}
            units={column.units}
            disabled={locked || bound}
            onChange={(level) => put({ levels: row.levels.map((typed, at) => (at === index ? level : typed)) })}
          />
          {saved?.levels[index]?.shown && !saved.levels[index]?.shown?.startsWith(row.levels[index]?.text ?? "") && (
            <span className="muted text-sm">that is {saved.levels[index]?.shown}</span>
          )}
        </td>
      ))}
      <td>
        <label className="flex items-center gap-2">
          <input type="radio" name="control" checked={row.is_control} disabled={locked} onChange={control} />
          <span className={row.is_control ? "" : "sr-only"}>
            control<span className="sr-only"> is {letter}</span>
          </span>
        </label>
      </td>
      <td>
        {row.is_control ? (
          <span className="muted">0, by definition</span>
        ) : (
          <UnitEntry
            label={`Extra cost of ${letter}`}
            unitLabel={`Unit of the extra cost of ${letter}`}
            value={row.extra_cost}
            units={monies}
            numeric
            disabled={locked}
            onChange={(extra_cost) => put({ extra_cost })}
          />
        )}
      </td>
      <td className="num">{saved?.costs_more?.text ?? ""}</td>
      <td className="num">
        {saved?.margin && !row.is_control ? <Worked working={saved.margin_working}>{saved.margin.text}</Worked> : ""}
      </td>
      <td>
        {remove && !locked && !bound && (
          <button type="button" className="underline" onClick={remove}>
            Remove<span className="sr-only"> {letter}</span>
          </button>
        )}
      </td>
    </tr>
  );
}
