import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { SpacingBars } from "../../../ui/charts/SpacingBars";
import { Worked } from "../../../ui/working";
import type { Stage } from "../TrialFrame";
import { VoidRecord } from "../VoidRecord";
import { Named } from "./Emergence";

type Props = { stage: Stage; analysis: Schemas["StandAnalysisOut"]; scouting: Schemas["ScoutingOut"] };
const pct = (value: number | null) => (value === null ? "" : `${value.toFixed(1)} %`);

/** Spacing along the row: by treatment, then the runs of the strip that is selected. */
export function Spacing({ stage, analysis, scouting }: Props) {
  const { trial, writable, selected } = stage;
  const shown = selected ? scouting.strips.filter((strip) => strip.strip_id === selected.id) : scouting.strips;
  const runs = shown.flatMap((stripScouting) => stripScouting.tapes).slice(-6);
  return (
    <>
      {writable && trial.strips.length > 0 && (
        <Link
          className="act inline-block"
          to={`/trials/${trial.id}/fieldbook?task=tape${selected ? `&strip=${selected.order}` : ""}`}
        >
          Run the tape in the field book
        </Link>
      )}
      {analysis.spacing.length > 0 ? (
        <table aria-label="Spacing by treatment" className="figures mt-2 max-w-3xl">
          <thead>
            <tr>
              <th>Treatment</th>
              <th className="num">Runs</th>
              <th className="num">CV of all spacings</th>
              <th className="num">Doubles</th>
              <th className="num">Skips</th>
              <th className="num">Precision of singles</th>
            </tr>
          </thead>
          <tbody>
            {analysis.spacing.map((spacingTreatment) => (
              <tr key={spacingTreatment.treatment_id}>
                <td>
                  <Named treatment={trial.treatments.find((other) => other.id === spacingTreatment.treatment_id)} />
                </td>
                <td className="num">{spacingTreatment.runs}</td>
                <td className="num">{pct(spacingTreatment.cv_pct)}</td>
                <td className="num">{pct(spacingTreatment.doubles_pct)}</td>
                <td className="num">{pct(spacingTreatment.skips_pct)}</td>
                <td className="num">{pct(spacingTreatment.precision_pct)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : (
        <p className="muted mt-2">No tape run yet. Thirty plants on a tape tell doubles, skips and unevenness apart.</p>
      )}
      <div className="mt-4 grid gap-4 md:grid-cols-2">
        {runs.map((run) => (
          <section key={run.id} aria-label="A tape run" className="sheet p-2">
            <h3>
              Strip {trial.strips.find((strip) => strip.id === run.strip_id)?.order}: {run.spacings.plants} plants,{" "}
              {run.spacings.working ? (
                <Worked working={run.spacings.working}>CV {pct(run.spacings.cv_pct)}</Worked>
              ) : (
                "tapped, no CV"
              )}
            </h3>
            {run.spacings.histogram.length > 0 && (
              <SpacingBars numbers={run.spacings.histogram.map((histogram) => histogram.number)} />
            )}
            <p>
              Doubles {pct(run.spacings.doubles_pct)}, skips {pct(run.spacings.skips_pct)}, places missed{" "}
              {pct(run.spacings.missed_pct)}; {run.spacings.per_row.text}
            </p>
            {run.questions.map((question) => (
              <p key={question.text} className="text-sm font-medium">
                ? {question.text}
              </p>
            ))}
            <p className="muted flex gap-3 text-sm">
              {run.recorded_by}
              {writable && <VoidRecord trialId={trial.id} kind="tape-run" record={run} what="this tape run" />}
            </p>
          </section>
        ))}
      </div>
    </>
  );
}
