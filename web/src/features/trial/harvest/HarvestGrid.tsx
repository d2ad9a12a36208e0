import { type KeyboardEvent, useRef, useState } from "react";
import type { Schemas, Strip } from "../../../api/client";
import { pastedColumn } from "../../../ui/csv";
import { useUnits } from "../../../ui/fields";
import { Stake } from "../../../ui/marks";
import type { ReaderUnits } from "../../../ui/readerUnits";
import { Worked } from "../../../ui/working";
import type { Stage } from "../TrialFrame";
import {
  COLUMNS,
  type Column,
  cellOf,
  columnsOf,
  type Drafts,
  fillColumn,
  type Load,
  type Method,
  type SheetRow,
} from "./harvestSheet";

type Props = Stage & {
  rows: SheetRow[];
  method: Method;
  drafts: Drafts;
  unitOf: (column: Column) => string;
  keep: (drafts: Drafts) => void;
  problems: Record<string, string>;
  voidRecord: (load: Load, reason: string) => Promise<void>;
  /** Strips whose yield comes from several loads, by id. */
  together: Record<string, Schemas["StripHarvestOut"]>;
};

/** A sheet of strips and loads: Enter and the arrows go down and up, a pasted column runs down. */
export function HarvestGrid(props: Props) {
  const { rows, method, drafts, keep, unitOf, writable } = props;
  const grid = useRef<HTMLTableElement>(null);
  const [all, setAll] = useState(false);
  const columns = columnsOf(method, rows, drafts, all);

  function move(event: KeyboardEvent, row: number, column: Column) {
    const step = { Enter: 1, ArrowDown: 1, ArrowUp: -1 }[event.key];
    const next = step && grid.current?.querySelector<HTMLInputElement>(`[data-cell="${row + step}:${column}"]`);
    if (!next) return;
    event.preventDefault();
    next.focus();
    next.select();
  }

  return (
    <div className="overflow-x-auto">
      {method === "weighed" && (
        <label className="mb-1 flex items-center gap-2">
          <input type="checkbox" checked={all} onChange={(event) => setAll(event.target.checked)} />
          Passes, test weight, pieces counted and handling shrink too
        </label>
      )}
      <table className="figures" ref={grid}>
        <thead>
          <tr>
            <th className="num">Strip</th>
            <th />
            {columns.map(([column, label, dimension]) => (
              <th key={column} className="min-w-24">
                {label}
                <UnitChoice
                  column={label}
                  dimension={dimension}
                  reader={props.reader}
                  unit={unitOf(column)}
                  onChange={(unit) => keep({ ...drafts, units: { ...drafts.units, [column]: unit } })}
                />
              </th>
            ))}
            <th className="num">Yield at standard</th>
            <th />
          </tr>
          {writable && rows.length > 1 && method === "weighed" && (
            <tr>
              <th colSpan={2} className="muted font-normal">
                all empty
              </th>
              {columns.map(([column, label]) => (
                <th key={column}>
                  {["swath_width", "length", "passes", "shrink"].includes(column) && (
                    <FillDown
                      label={`${label} of all empty rows`}
                      onFill={(text) => {
                        let next = drafts;
                        rows.forEach((row, place) => {
                          const blank = !cellOf(row, column, next, "").text;
                          if (blank) next = fillColumn(rows, place, column, [text], unitOf(column), next);
                        });
                        keep(next);
                      }}
                    />
                  )}
                </th>
              ))}
              <th colSpan={2} />
            </tr>
          )}
        </thead>
        <tbody>
          {rows.map((row, place) => (
            <GridRow key={row.key} {...props} columns={columns} row={row} place={place} move={move} />
          ))}
        </tbody>
      </table>
    </div>
  );
}

type RowProps = Props & {
  columns: (typeof COLUMNS)[Method];
  row: SheetRow;
  place: number;
  move: (event: KeyboardEvent, row: number, column: Column) => void;
};

function GridRow({ row, place, move, trial, selected, select, columns, ...props }: RowProps) {
  const { rows, method, drafts, unitOf, keep, problems, writable } = props;
  const treatment = trial.treatments.find((item) => item.id === row.strip.received_id);
  const id = drafts.rows[row.key]?.id ?? row.load?.id ?? "";
  const notes = COLUMNS[method]
    .flatMap(([column]) => problems[`${id}:${column}`] ?? [])
    .concat(problems[`${id}:`] ?? []);
  return (
    <>
      <tr className={row.strip.id === selected?.id ? "outline-2 outline-accent" : ""}>
        <td className="num">
          <button type="button" className="underline" onClick={() => select(row.strip)}>
            {row.strip.order}
          </button>
        </td>
        <td>{treatment && row.first && <Stake letter={treatment.letter} position={treatment.position} />}</td>
        {columns.map(([column, label]) => {
          const cell = cellOf(row, column, drafts, unitOf(column));
          const wrong = problems[`${id}:${column}`];
          return (
            <td key={column}>
              <input
                data-cell={`${place}:${column}`}
                aria-label={`${label}, strip ${row.strip.order}`}
                aria-invalid={Boolean(wrong)}
                className={`entry min-h-7 w-full py-0 text-right ${drafts.rows[row.key]?.cells[column] ? "font-semibold" : ""}`}
                inputMode="decimal"
                value={cell.text}
                disabled={!writable}
                onKeyDown={(event) => move(event, place, column)}
                onPaste={(event) => {
                  const texts = pastedColumn(event.clipboardData.getData("text"));
                  if (texts.length < 2) return;
                  event.preventDefault();
                  keep(fillColumn(rows, place, column, texts, unitOf(column), drafts));
                }}
                onChange={(event) =>
                  keep(fillColumn(rows, place, column, [event.target.value], unitOf(column), drafts))
                }
              />
              {cell.text && cell.unit !== unitOf(column) && (
                <span className="muted block text-right text-xs">in {cell.unit}</span>
              )}
            </td>
          );
        })}
        <td className="num">
          {row.load &&
            (row.load.yield_ ? (
              <Worked working={row.load.working}>{row.load.yield_.text}</Worked>
            ) : (
              <span className="muted">waits for moisture</span>
            ))}
          {row.load?.per_area && <span className="muted block text-xs">{row.load.per_area}</span>}
        </td>
        <td className="whitespace-nowrap">
          {writable && row.load && <VoidLoad load={row.load} voidRecord={props.voidRecord} />}
          {writable && row.load && row.first && (
            <button
              type="button"
              className="ml-2 underline"
              onClick={() =>
                keep({ ...drafts, more: { ...drafts.more, [row.strip.id]: (drafts.more[row.strip.id] ?? 0) + 1 } })
              }
            >
              + load<span className="sr-only"> on strip {row.strip.order}</span>
            </button>
          )}
        </td>
      </tr>
      {row.last && <LoadsTogether strip={row.strip} sum={props.together[row.strip.id]} columns={columns.length} />}
      {(notes.length > 0 || (row.load?.questions.length ?? 0) > 0) && (
        <tr>
          <td />
          <td colSpan={columns.length + 3}>
            {notes.map((note) => (
              <p key={note} role="alert" className="font-medium text-error">
                {note}
              </p>
            ))}
            {row.load?.questions.map((question) => (
              <p key={question.code} className="font-medium">
                ? {question.text}
              </p>
            ))}
          </td>
        </tr>
      )}
    </>
  );
}

type SumProps = { strip: Strip; sum: Schemas["StripHarvestOut"] | undefined; columns: number };

function LoadsTogether({ strip, sum, columns }: SumProps) {
  if (!sum?.yield_) return null;
  return (
    <tr>
      <td colSpan={columns + 2} className="text-right">
        strip {strip.order}, its loads together
      </td>
      <td className="num font-semibold">
        <Worked working={sum.working}>{sum.yield_.text}</Worked>
      </td>
      <td />
    </tr>
  );
}

function VoidLoad({ load, voidRecord }: { load: Load; voidRecord: Props["voidRecord"] }) {
  const [reason, setReason] = useState<string | null>(null);
  if (reason === null) {
    return (
      <button type="button" className="underline" onClick={() => setReason("")}>
        Void
      </button>
    );
  }
  return (
    <form
      className="flex items-center gap-1"
      onSubmit={(event) => {
        event.preventDefault();
        if (reason.trim()) void voidRecord(load, reason);
      }}
    >
      <input
        className="entry min-h-7 w-28 py-0"
        aria-label="Reason for voiding"
        placeholder="reason"
        required
        value={reason}
        onChange={(event) => setReason(event.target.value)}
      />
      <button type="submit" className="plain">
        Void it
      </button>
    </form>
  );
}

function UnitChoice(props: {
  column: string;
  dimension: string;
  reader: ReaderUnits;
  unit: string;
  onChange: (unit: string) => void;
}) {
  const units = useUnits(props.dimension, props.reader);
  if (units.length < 2) return <span className="muted block font-normal">{units[0]?.[1]}</span>;
  return (
    <select
      aria-label={`Unit of ${props.column}`}
      className="muted block bg-transparent font-normal"
      value={props.unit}
      onChange={(event) => props.onChange(event.target.value)}
    >
      {units.map(([code, label]) => (
        <option key={code} value={code}>
          {label}
        </option>
      ))}
    </select>
  );
}

function FillDown({ label, onFill }: { label: string; onFill: (text: string) => void }) {
  const [text, setText] = useState("");
  const fill = () => {
    if (!text.trim()) return;
    onFill(text);
    setText("");
  };
  return (
    <input
      aria-label={label}
      className="entry min-h-7 py-0 text-right font-normal"
      inputMode="decimal"
      value={text}
      onChange={(event) => setText(event.target.value)}
      onBlur={fill}
      onKeyDown={(event) => event.key === "Enter" && fill()}
    />
  );
}
