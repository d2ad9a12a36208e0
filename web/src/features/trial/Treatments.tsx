import { useState } from "react";
import { ask, client, type Schemas, type Trial, type Typed } from "../../api/client";
import { useCatalogue } from "../../api/queries";
import { useUnits } from "../../ui/fields";
import { Stake } from "../../ui/marks";
import { Worked } from "../../ui/working";
import { Caution, Columns } from "./Columns";
import { type Stage, useStage } from "./TrialFrame";

type Kind = Schemas["TreatmentsIn"]["factor_kind"];
type Row = { key: string; id: string | null; level: Typed; is_control: boolean; extra_cost: Typed };
type Draft = { kind: Kind; name: string; rows: Row[] };

const DIMENSION: Partial<Record<Kind, string>> = {
  row_spacing: "length",
  seeding_rate: "seeding_rate",
  seeding_depth: "length",
};
const HINTS: Record<Kind, string> = {
  row_spacing: "such as 12.5 cm against 25 cm",
  seeding_rate: "by count or by weight; a weight needs the seed weight on the Seed page",
  seeding_depth: "such as 3 cm against 6 cm",
  tillage: "such as strip till against plough",
  free: "one thing only, named above",
};

const newRow = (unit: string, money: string): Row => ({
  key: crypto.randomUUID(),
  id: null,
  level: { text: "", unit },
  is_control: false,
  extra_cost: { text: "", unit: money },
});

function draftOf(trial: Trial, unit: string, money: string): Draft {
  const rows = trial.treatments.map((one) => ({
    key: one.id,
    id: one.id,
    level: { text: one.level.text || one.name, unit: one.level.unit || unit },
    is_control: one.is_control,
    extra_cost: { text: one.extra_cost.text, unit: one.extra_cost.unit || money },
  }));
  while (rows.length < 2) rows.push({ ...newRow(unit, money), is_control: rows.length === 0 } as (typeof rows)[number]);
  return { kind: trial.factor_kind ?? "row_spacing", name: trial.factor_name, rows };
}

export function Treatments() {
  const stage = useStage();
  const { trial, write, problems, writable, system, currency } = stage;
  const catalogue = useCatalogue();
  const money = system === "us" ? "money/ac" : "money/ha";
  const usual = (kind: Kind) =>
    catalogue.data?.usual_units[
      { row_spacing: "row_spacing", seeding_rate: "density_dense", seeding_depth: "depth" }[kind as string] ?? ""
    ]?.[system] ?? "";
  const [draft, setDraft] = useState<Draft | null>(null);
  const shown = draft ?? draftOf(trial, usual(trial.factor_kind ?? "row_spacing"), money);
  const units = useUnits(DIMENSION[shown.kind] ?? "", system);
  const monies = useUnits("money_per_area", system);
  const change = (rows: Row[]) => setDraft({ ...shown, rows });
  const put = (key: string, part: Partial<Row>) =>
    change(shown.rows.map((row) => (row.key === key ? { ...row, ...part } : row)));
  const levelled = DIMENSION[shown.kind] !== undefined;

  async function keep() {
    const fresh = await write("treatments", (version) =>
      ask(
        client.PUT("/api/trials/{trial_id}/treatments", {
          params: { path: { trial_id: trial.id } },
          body: {
            version,
            factor_kind: shown.kind,
            factor_name: shown.name,
            treatments: shown.rows.map(({ key: _, level, ...row }) => ({
              ...row,
              level: levelled ? level : { text: level.text, unit: "" },
            })),
          },
        }),
      ),
    );
    if (fresh) setDraft(null);
  }

  return (
    <Columns why={<Why trial={trial} />}>
      <div className="mb-3 flex flex-wrap items-end gap-3">
        <label>
          What is varied
          <select
            className="entry"
            value={shown.kind}
            disabled={!writable || !trial.treatments_bound.open}
            onChange={(event) => {
              const kind = event.target.value as Kind;
              setDraft({
                ...shown,
                kind,
                rows: shown.rows.map((row) => ({ ...row, level: { ...row.level, unit: usual(kind) } })),
              });
            }}
          >
            {catalogue.data?.factor_kinds.map(([key, name]) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </select>
        </label>
        {shown.kind === "free" && (
          <label>
            Its name
            <input
              className="entry"
              value={shown.name}
              onChange={(event) => setDraft({ ...shown, name: event.target.value })}
            />
          </label>
        )}
        <p className="muted pb-1">{HINTS[shown.kind]}</p>
      </div>
      <table className="figures">
        <thead>
          <tr>
            <th>Letter</th>
            <th>Level</th>
            <th>Farm does it now</th>
            <th>Extra cost against the control</th>
            <th>Gain that pays</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {shown.rows.map((row, place) => (
            <TreatmentRow
              key={row.key}
              row={row}
              place={place}
              saved={trial.treatments.find((one) => one.id === row.id)}
              units={levelled ? units : []}
              monies={monies.map(([code, label]) => [code, currency + label])}
              locked={!writable}
              bound={!trial.treatments_bound.open}
              put={(part) => put(row.key, part)}
              control={() => change(shown.rows.map((one) => ({ ...one, is_control: one.key === row.key })))}
              remove={shown.rows.length > 2 ? () => change(shown.rows.filter((one) => one.key !== row.key)) : null}
            />
          ))}
        </tbody>
      </table>
      {problems.treatments && (
        <p role="alert" className="mt-2 font-medium text-error">
          {problems.treatments}
        </p>
      )}
      {writable && (
        <div className="mt-3 flex flex-wrap items-center gap-3">
          <button type="button" className="act" disabled={!draft} onClick={() => void keep()}>
            Keep these treatments
          </button>
          {trial.treatments_bound.open && (
            <button
              type="button"
              className="plain"
              onClick={() => change([...shown.rows, newRow(shown.rows.at(-1)?.level.unit ?? "", money)])}
            >
              Add a treatment
            </button>
          )}
          {draft && (
            <>
              <button type="button" className="plain" onClick={() => setDraft(null)}>
                Back to what is kept
              </button>
              <span className="muted">Not kept yet.</span>
            </>
          )}
        </div>
      )}
    </Columns>
  );
}

type RowProps = {
  row: Row;
  place: number;
  saved: Stage["trial"]["treatments"][number] | undefined;
  units: [string, string][];
  monies: [string, string][];
  locked: boolean;
  bound: boolean;
  put: (part: Partial<Row>) => void;
  control: () => void;
  remove: (() => void) | null;
};

function TreatmentRow({ row, place, saved, units, monies, locked, bound, put, control, remove }: RowProps) {
  const letter = String.fromCharCode(65 + place);
  return (
    <tr>
      <td>
        <Stake letter={letter} position={place} />
      </td>
      <td>
        <div className="flex">
          <input
            aria-label={`Level of ${letter}`}
            className="entry"
            value={row.level.text}
            disabled={locked || bound}
            onChange={(event) => put({ level: { ...row.level, text: event.target.value } })}
          />
          {units.length > 0 && (
            <select
              aria-label={`Unit of the level of ${letter}`}
              className="entry w-28 border-l-0"
              value={row.level.unit}
              disabled={locked || bound}
              onChange={(event) => put({ level: { ...row.level, unit: event.target.value } })}
            >
              {units.map(([code, label]) => (
                <option key={code} value={code}>
                  {label}
                </option>
              ))}
            </select>
          )}
        </div>
        {saved?.level.shown && saved.level.shown !== saved.name && (
          <span className="muted text-sm">{saved.level.shown}</span>
        )}
        {saved && !saved.name.startsWith(row.level.text) && <span className="muted text-sm">that is {saved.name}</span>}
      </td>
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
          <div className="flex">
            <input
              aria-label={`Extra cost of ${letter}`}
              className="entry text-right"
              inputMode="decimal"
              value={row.extra_cost.text}
              disabled={locked}
              onChange={(event) => put({ extra_cost: { ...row.extra_cost, text: event.target.value } })}
            />
            <select
              aria-label={`Unit of the extra cost of ${letter}`}
              className="entry w-24 border-l-0"
              value={row.extra_cost.unit}
              disabled={locked}
              onChange={(event) => put({ extra_cost: { ...row.extra_cost, unit: event.target.value } })}
            >
              {monies.map(([code, label]) => (
                <option key={code} value={code}>
                  {label}
                </option>
              ))}
            </select>
          </div>
        )}
      </td>
      <td>
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

function Why({ trial }: { trial: Trial }) {
  return (
    <>
      <p>
        One factor, one difference. Whatever else changes with it (another drill, another day, another variety) is
        measured too, and nobody can take it out afterwards.
      </p>
      <p>
        Extra cost: seed, product, passes and machine time that the treatment needs over the control, per area. Less is
        written with a minus.
      </p>
      {!trial.treatments_bound.open && <Caution>Levels are fixed now: {trial.treatments_bound.reason}</Caution>}
      {trial.notes.map((note) => (
        <Caution key={note}>{note}</Caution>
      ))}
    </>
  );
}
