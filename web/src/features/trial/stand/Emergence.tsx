import type { Schemas } from "../../../api/client";
import { EmergencePlot } from "../../../ui/charts/EmergencePlot";
import { Stake } from "../../../ui/marks";
import { Worked } from "../../../ui/working";
import { writtenDay } from "../../../ui/writing";
import type { Stage } from "../TrialFrame";

type Props = { stage: Stage; analysis: Schemas["StandAnalysisOut"] };
const days = (value: number | null) => (value === null ? "not known" : `${value.toFixed(1)} days`);

/** Emergence by treatment over time, and what is left later. */
export function Emergence({ stage, analysis }: Props) {
  const { trial } = stage;
  const of = (id: string) => trial.treatments.find((treatment) => treatment.id === id);
  if (!trial.strips.some((strip) => strip.sown_on))
    return <p className="muted">No day of sowing is known; without it there is no emergence to calculate.</p>;
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
      {analysis.left_out.map((text) => (
        <p key={text} className="font-medium">
          {text}
        </p>
      ))}
      {analysis.emergence_measures.map((measure) => (
        <Measure
          key={measure.key}
          trial={trial}
          measure={measure}
          rows={measure.key === "final" ? analysis.emergence : []}
        />
      ))}
      <ByStrip rows={analysis.emergence} of={of} />
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

/** One measure of emergence, treatments compared over strips. */
type Measured = {
  trial: Stage["trial"];
  measure: Schemas["EmergenceMeasureOut"];
  /** Curves by treatment, where the share of the seed is told beside. */
  rows: Schemas["EmergenceOut"][];
};

function Measure({ trial, measure, rows }: Measured) {
  const level = `${measure.level_pct.toFixed(0)} % interval`;
  return (
    <section aria-label={measure.name} className="mt-4 max-w-3xl">
      <h3>
        {measure.name}
        {measure.p && <span className="muted font-normal"> p {measure.p} between treatments</span>}
      </h3>
      <div className="overflow-x-auto">
        <table className="figures">
          <thead>
            <tr>
              <th>Treatment</th>
              <th className="num">Mean, {level}</th>
              <th className="num">Against the control, {level}</th>
              {rows.length > 0 && <th className="num">Of the seed sown</th>}
              <th className="num">Strips</th>
            </tr>
          </thead>
          <tbody>
            {measure.treatments.map((value) => (
              <tr key={value.treatment_id}>
                <td>
                  <Named treatment={trial.treatments.find((treatment) => treatment.id === value.treatment_id)} />
                </td>
                <td className="num">
                  {value.mean || "not known"}
                  {value.lower && ` (${value.lower} to ${value.upper})`}
                </td>
                <td className="num">
                  {value.difference}
                  {value.difference_lower && ` (${value.difference_lower} to ${value.difference_upper})`}
                </td>
                {rows.length > 0 && <td className="num">{shareOf(rows, value.treatment_id)}</td>}
                <td className="num">{value.strips}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="muted text-sm">{measure.words}</p>
    </section>
  );
}

/** Percent of the seed sown, with its working; and whether half was up before the first count. */
function shareOf(rows: Schemas["EmergenceOut"][], treatment: string) {
  const row = rows.find((emergence) => emergence.treatment_id === treatment);
  if (!row) return null;
  return (
    <>
      <Worked working={row.working}>{row.final_pct === null ? row.final.text : `${row.final_pct.toFixed(0)} %`}</Worked>
      {row.half_before && <span className="muted">, half up before the first count</span>}
    </>
  );
}

function ByStrip({ rows, of }: { rows: Schemas["EmergenceOut"][]; of: (id: string) => Named["treatment"] }) {
  const strips = rows
    .flatMap((row) => row.strips.map((strip) => ({ ...strip, treatment: of(row.treatment_id) })))
    .sort((left, right) => left.order - right.order);
  if (!strips.length) return null;
  return (
    <details className="mt-4">
      <summary className="cursor-pointer underline">Strip by strip, each on its own clock</summary>
      <div className="overflow-x-auto">
        <table aria-label="Emergence by strip" className="figures">
          <thead>
            <tr>
              <th className="num">Strip</th>
              <th>Treatment</th>
              <th>Sown</th>
              <th className="num">Highest stand</th>
              <th className="num">Days to half</th>
              <th className="num">Days to 90 %</th>
              <th className="num">First to last tenth</th>
            </tr>
          </thead>
          <tbody>
            {strips.map((strip) => (
              <tr key={strip.strip_id}>
                <td className="num">{strip.order}</td>
                <td>
                  <Named treatment={strip.treatment} />
                </td>
                <td className="whitespace-nowrap">{strip.sown_on && writtenDay(strip.sown_on)}</td>
                <td className="num">{strip.final.text}</td>
                <td className="num">
                  {days(strip.half_days)}
                  {strip.half_se_days !== null && (
                    <span className="muted"> ± {strip.half_se_days.toFixed(1)} s.e.</span>
                  )}
                </td>
                <td className="num">{days(strip.ninety_days)}</td>
                <td className="num">{days(strip.spread_days)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </details>
  );
}

type Named = { treatment: Stage["trial"]["treatments"][number] | undefined };

export function Named({ treatment }: Named) {
  if (!treatment) return null;
  return (
    <>
      <Stake letter={treatment.letter} position={treatment.position} /> {treatment.name}
    </>
  );
}
