import type { Schemas } from "../../../api/client";
import { Named } from "../stand/Emergence";
import type { Stage } from "../TrialFrame";

/** Land-equivalent ratio of mixtures, and residue before and after grazing, where they were sampled. */
export function Mixture({ stage, estimates }: { stage: Stage; estimates: Schemas["EstimatesOut"] }) {
  const named = (id: string) => <Named treatment={stage.trial.treatments.find((treatment) => treatment.id === id)} />;
  return (
    <>
      {estimates.land.length > 0 && (
        <section aria-label="Land-equivalent ratio" className="mt-4">
          <h3>Land-equivalent ratio</h3>
          <ul>
            {estimates.land.map((land) => (
              <li key={land.treatment_id}>
                {named(land.treatment_id)} {land.words}
              </li>
            ))}
          </ul>
        </section>
      )}
      {estimates.residue.length > 0 && (
        <section aria-label="Residue" className="mt-4">
          <h3>Residue before and after grazing, dry matter</h3>
          <table aria-label="Residue by treatment" className="figures max-w-3xl">
            <thead>
              <tr>
                <th>Treatment</th>
                <th className="num">Before</th>
                <th className="num">After</th>
                <th>Used</th>
              </tr>
            </thead>
            <tbody>
              {estimates.residue.map((residue) => (
                <tr key={residue.treatment_id}>
                  <td>{named(residue.treatment_id)}</td>
                  <td className="num">{residue.before?.text ?? "–"}</td>
                  <td className="num">{residue.after?.text ?? "–"}</td>
                  <td>{residue.words}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="caution mt-1 max-w-3xl">
            Turn stock onto stubble slowly: grain overload kills. Mind nitrate and prussic acid after frost or drought,
            and the grazing interval of products used.
          </p>
        </section>
      )}
    </>
  );
}
