import { useState } from "react";
import { ask, client, type Trial } from "../../../api/client";
import { useCatalogue } from "../../../api/queries";
import { useUnits } from "../../../ui/fields";
import { AlongTheRow } from "../AlongTheRow";
import { Caution, Columns } from "../Columns";
import { useStage } from "../TrialFrame";
import { CostLines } from "./CostLines";
import { bodyOf, DIMENSION, type Draft, draftOf, everyCombination, type Kind, newRow, type Units } from "./draft";
import { FactorBar } from "./FactorBar";
import { TreatmentRow } from "./TreatmentRow";

const USUAL: Partial<Record<Kind, string>> = {
  row_spacing: "row_spacing",
  seeding_rate: "density",
  seeding_depth: "depth",
};

export function Treatments() {
  const { trial, write, problems, writable, reader, currency, refuse } = useStage();
  const catalogue = useCatalogue();
  const units: Units = {
    money: reader.of.money_per_area ?? "",
    usual: (kind) => reader.of[USUAL[kind] ?? ""] ?? "",
    hard: (kind) => catalogue.data?.hard_kinds.includes(kind) ?? false,
  };
  const [draft, setDraft] = useState<Draft | null>(null);
  const shown = draft ?? draftOf(trial, units);
  const byDimension = {
    length: useUnits("length", reader),
    seeding_rate: useUnits("seeding_rate", reader),
  } as Record<string, [string, string][]>;
  const monies = useUnits("money_per_area", reader).map(([code, label]): [string, string] => [code, currency + label]);
  const names = new Map((catalogue.data?.factor_kinds ?? []).map(([key = "", name = ""]) => [key, name]));
  const titles = shown.factors.map((factor) => factor.name || (names.get(factor.kind) ?? factor.kind));
  const columns = shown.factors.map((factor, place) => ({
    title: titles[place] ?? "",
    units: byDimension[DIMENSION[factor.kind] ?? ""] ?? [],
  }));
  const bound = !trial.treatments_bound.open;
  const change = (part: Partial<Draft>) => setDraft({ ...shown, ...part });

  async function keep() {
    const fresh = await write("treatments", (version, amendment) =>
      ask(
        client.PUT("/api/trials/{trial_id}/treatments", {
          params: { path: { trial_id: trial.id } },
          body: { version, amendment, ...bodyOf(shown) },
        }),
      ),
    );
    if (fresh) setDraft(null);
  }

  function combine() {
    const rows = everyCombination(shown, units);
    if (rows) change({ rows });
    else refuse("treatments", "Every combination needs at least one level of each factor, and at most 40 in all.");
  }

  return (
    <Columns why={<Why trial={trial} />}>
      <FactorBar draft={shown} units={units} locked={!writable || bound} change={setDraft} />
      <div className="overflow-x-auto">
        <table className="figures">
          <thead>
            <tr>
              <th>Letter</th>
              {columns.length > 1 ? (
                columns.map((column) => <th key={column.title}>{column.title}</th>)
              ) : (
                <th>Level</th>
              )}
              <th>Farm does it now</th>
              <th>Extra cost against the control</th>
              <th className="num">Costs more</th>
              <th className="num">Gain that pays</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {shown.rows.map((row, place) => (
              <TreatmentRow
                key={row.key}
                row={row}
                place={place}
                saved={trial.treatments.find((treatment) => treatment.id === row.id)}
                columns={columns}
                monies={monies}
                locked={!writable}
                bound={bound}
                put={(part) =>
                  change({
                    rows: shown.rows.map((rowDraft) =>
                      rowDraft.key === row.key ? { ...rowDraft, ...part } : rowDraft,
                    ),
                  })
                }
                control={() =>
                  change({
                    rows: shown.rows.map((rowDraft) => ({ ...rowDraft, is_control: rowDraft.key === row.key })),
                  })
                }
                remove={
                  shown.rows.length > 2
                    ? () => change({ rows: shown.rows.filter((rowDraft) => rowDraft.key !== row.key) })
                    : null
                }
              />
            ))}
          </tbody>
        </table>
      </div>
      {problems.treatments && (
        <p role="alert" className="mt-2 font-medium text-error">
          {problems.treatments}
        </p>
      )}
      <CostLines draft={shown} titles={titles} units={units} locked={!writable} change={setDraft} />
      {writable && (
        <div className="mt-3 flex flex-wrap items-center gap-3">
          <button type="button" className="act" disabled={!draft} onClick={() => void keep()}>
            Keep these treatments
          </button>
          {!bound && (
            <>
              <button
                type="button"
                className="plain"
                onClick={() => change({ rows: [...shown.rows, newRow(shown, units)] })}
              >
                Add a treatment
              </button>
              {shown.factors.length > 1 && (
                <button type="button" className="plain" onClick={combine}>
                  Make every combination
                </button>
              )}
            </>
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
      <section aria-label="Along the row" className="mt-5">
        <h3>What each treatment means along the row</h3>
        <AlongTheRow trial={trial} />
      </section>
    </Columns>
  );
}

function Why({ trial }: { trial: Trial }) {
  return (
    <>
      {trial.notes.map((note) => (
        <Caution key={note}>{note}</Caution>
      ))}
      {trial.layout.suggests && <p>{trial.layout.suggests}</p>}
      <p>
        One factor, one difference. With two factors take every combination, or what changes together can never be told
        apart. Whatever else changes (another drill, another day) is measured too.
      </p>
      <p>
        Extra cost: what the treatment needs over the control, per area; less is written with a minus. Costs of a level
        go into the lines below the table and are added.
      </p>
      {!trial.treatments_bound.open && <Caution>Levels are fixed now: {trial.treatments_bound.reason}</Caution>}
    </>
  );
}
