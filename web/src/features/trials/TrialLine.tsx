import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { type Layer, Ribbon } from "../../ui/Ribbon";
import { ribbonOf } from "./ribbonOf";

/** One trial as a ribbon with its name and what comes next, or what its verdict stands on. */
export function TrialLine({
  trial,
  to,
  layer = "plan",
}: {
  trial: Schemas["TrialRowOut"];
  to?: "verdict" | "harvest";
  layer?: Layer;
}) {
  const { strips, treatments } = ribbonOf(trial, layer);
  return (
    <article className="sheet min-w-0 p-2">
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
      <Ribbon small strips={strips} treatments={treatments} layer={layer} />
      {trial.recalculating && <p className="muted text-sm">Being recalculated: shown as before the last entry.</p>}
      <p className="text-sm">{to ? trial.verdict_note : trial.next_note}</p>
    </article>
  );
}
