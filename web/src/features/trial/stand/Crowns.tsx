import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { Worked } from "../../../ui/working";
import type { Stage } from "../TrialFrame";
import { Named } from "./Emergence";
import { StagePicture } from "./StagePicture";

type Props = { stage: Stage; analysis: Schemas["StandAnalysisOut"]; scouting: Schemas["ScoutingOut"] };

/** Stage of growth by the crop's own rule with its picture; dug plants of perennial stands. */
export function Crowns({ stage, analysis, scouting }: Props) {
  const { trial, writable, selected } = stage;
  const strip = selected ? `&strip=${selected.order}` : "";
  const of = (id: string) => trial.treatments.find((treatment) => treatment.id === id);
  const feel = scouting.measured.find((measured) => measured.key === "crown");
  return (
    <div className="grid gap-6 xl:grid-cols-2">
      <section aria-label="Stage of growth">
        <h3>Stage of growth</h3>
        {analysis.rule ? (
          <StagePicture rule={analysis.rule} />
        ) : (
          <p className="muted">No counting rule for this crop.</p>
        )}
        <ul>
          {analysis.stages.map((stageOfStand) => (
            <li key={stageOfStand.treatment_id} className="border-b border-base-300 py-1">
              <Named treatment={of(stageOfStand.treatment_id)} />:{" "}
              <span className="font-semibold">{stageOfStand.words}</span>{" "}
              <span className="muted">{stageOfStand.on}</span>
            </li>
          ))}
        </ul>
        {writable && analysis.rule && (
          <Link
            className="plain mt-2 inline-block"
            to={`/trials/${trial.id}/fieldbook?task=measure&trait=leaves${strip}`}
          >
            Count leaves in the field book
          </Link>
        )}
      </section>
      <section aria-label="Crowns and roots">
        <h3>Crowns and roots</h3>
        {analysis.crowns.length ? (
          <table className="figures">
            <thead>
              <tr>
                <th>Treatment</th>
                <th className="num">Dug</th>
                <th className="num">Alive, interval</th>
                <th className="num">Shoots per area</th>
              </tr>
            </thead>
            <tbody>
              {analysis.crowns.map((crown) => (
                <tr key={crown.treatment_id}>
                  <td>
                    <Named treatment={of(crown.treatment_id)} />
                  </td>
                  <td className="num">
                    {crown.dug}
                    {crown.few && ": few"}
                  </td>
                  <td className="num">
                    <Worked working={crown.working}>{crown.alive_pct.toFixed(0)} %</Worked> (
                    {crown.lower_pct.toFixed(0)} to {crown.upper_pct.toFixed(0)} %)
                  </td>
                  <td className="num">{crown.shoots?.text}</td>
                </tr>
              ))}
            </tbody>
          </table>
        ) : (
          <p className="muted">No plant dug yet. Firm and white is alive; brown, soft or pulling out is dead.</p>
        )}
        {feel && <p className="muted mt-2">{feel.hint}</p>}
        {writable && trial.strips.length > 0 && (
          <Link className="plain mt-2 inline-block" to={`/trials/${trial.id}/fieldbook?task=dig${strip}`}>
            Dig with the field book
          </Link>
        )}
      </section>
    </div>
  );
}
