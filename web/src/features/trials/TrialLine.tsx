import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { type Layer, Ribbon } from "../../ui/Ribbon";

type Row = Schemas["TrialRowOut"];

/** The treatments of a shelved trial in the order of their letters, as the ribbon wants them. */
export function treatmentsOf(trial: Row) {
  return Object.entries(trial.treatment_letters)
    .map(([id, letter], position) => ({ id, letter, position, name: trial.treatments[position] ?? "" }))
    .sort((a, b) => a.position - b.position);
}

/** One trial as a ribbon with its name and what comes next. */
export function TrialLine({ trial, to, layer = "plan" }: { trial: Row; to?: string; layer?: Layer }) {
  return (
    <article className="sheet p-2">
      <div className="flex flex-wrap items-baseline justify-between gap-x-3">
        <h3>
          <Link className="hover:underline" to={`/trials/${trial.id}/${to ?? trial.next_stage}`}>
            {trial.title}
          </Link>
        </h3>
        <span className="muted text-sm">
          {trial.crop_name}, {trial.season}
          {trial.field_name && `, ${trial.field_name}`}
        </span>
      </div>
      <Ribbon small strips={trial.strips} treatments={treatmentsOf(trial)} layer={layer} />
      {trial.recalculating && <p className="muted text-sm">Being recalculated: shown as before the last entry.</p>}
      <p className="text-sm">{to ? trial.stages.find((stage) => stage.key === to)?.note : trial.next_note}</p>
    </article>
  );
}
