import type { Schemas } from "../../../api/client";
import { EmergencePlot } from "../../../ui/charts/EmergencePlot";
import { Stake } from "../../../ui/marks";
import { Worked } from "../../../ui/working";
import type { Stage } from "../TrialFrame";

type Props = { stage: Stage; analysis: Schemas["StandAnalysisOut"] };
const days = (value: number | null) => (value === null ? "not known" : `${value.toFixed(1)} days`);

/** Emergence by treatment over time, and what is left later. */
export function Emergence({ stage, analysis }: Props) {
  const { trial } = stage;
  const of = (id: string) => trial.treatments.find((treatment) => treatment.id === id);
  if (!trial.planted_on)
    return <p className="muted">The day of sowing is not known; without it there is no emergence to reckon.</p>;
  if (!analysis.emergence.length)
    return (
      <p className="muted">
        No strip counted yet. Count first when about half is up, again when the stand is complete.
      </p>
    );
  const visits = Math.max(...analysis.emergence.map((emergence) => emergence.points.length));
  return (
    <>
      <EmergencePlot rows={analysis.emergence} treatments={trial.treatments} />
      {visits === 1 && (
        <p className="muted mt-1">
          One visit so far: the next one makes a curve. Half emergence needs a visit before half is up.
        </p>
      )}
      <table aria-label="Emergence by treatment" className="figures mt-2 max-w-3xl">
        <thead>
          <tr>
            <th>Treatment</th>
            <th className="num">Final emergence</th>
            <th className="num">Of the seed</th>
            <th className="num">Days to half</th>
            <th className="num">From a quarter to three quarters</th>
          </tr>
        </thead>
        <tbody>
          {analysis.emergence.map((emergence) => (
            <tr key={emergence.treatment_id}>
              <td>
                <Named treatment={of(emergence.treatment_id)} />
              </td>
              <td className="num">
                <Worked working={emergence.working}>{emergence.final.text}</Worked>
              </td>
              <td className="num">{emergence.final_pct !== null && `${emergence.final_pct.toFixed(0)} %`}</td>
              <td className="num">{emergence.half_before ? "before the first count" : days(emergence.half_days)}</td>
              <td className="num">{days(emergence.even_days)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {analysis.survival.length > 0 && (
        <table aria-label="Survival by treatment" className="figures mt-4 max-w-3xl">
          <thead>
            <tr>
              <th>Treatment</th>
              <th>Between</th>
              <th className="num">Left</th>
              <th className="num">{100 - 100 * trial.alpha} % interval</th>
              <th className="num">Strips</th>
            </tr>
          </thead>
          <tbody>
            {analysis.survival.map((survival) => (
              <tr key={survival.treatment_id + survival.to_day}>
                <td>
                  <Named treatment={of(survival.treatment_id)} />
                </td>
                <td>
                  day {survival.from_day} and day {survival.to_day}
                </td>
                <td className="num">{survival.pct.toFixed(0)} %</td>
                <td className="num">
                  {survival.lower_pct !== null && survival.upper_pct !== null
                    ? `${survival.lower_pct.toFixed(0)} to ${survival.upper_pct.toFixed(0)} %`
                    : "one strip"}
                </td>
                <td className="num">{survival.strips}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}

export function Named({ treatment }: { treatment: Stage["trial"]["treatments"][number] | undefined }) {
  if (!treatment) return null;
  return (
    <>
      <Stake letter={treatment.letter} position={treatment.position} /> {treatment.name}
    </>
  );
}
