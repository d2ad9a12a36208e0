import { useLearning } from "../../../api/queries";
import { LimitsPlot } from "../../../ui/charts/LimitsPlot";
import { signedPct } from "../../../ui/percent";
import { Waiting } from "../../../ui/Waiting";
import type { Stage } from "../TrialFrame";

/** Estimate against harvest: the plot of this crop, and bias by crop, method and person. */
export function Learned({ stage }: { stage: Stage }) {
  const learning = useLearning(stage.trial.id);
  if (!learning.data) return <Waiting query={learning} />;
  const { pairs, groups, problem, unit } = learning.data;
  return (
    <>
      {problem && <p className="muted">{problem}</p>}
      {pairs.length > 0 && (
        <LimitsPlot
          pairs={pairs}
          unit={unit}
          learned={groups.find((one) => one.group.startsWith(stage.trial.crop_name))}
        />
      )}
      {pairs.length === 0 && groups.length > 0 && (
        <p className="muted">No strip of this crop has both yet; what other crops taught stands below.</p>
      )}
      {groups.length > 0 && (
        <div className="overflow-x-auto">
          <table aria-label="What estimates taught" className="figures mt-3">
            <thead>
              <tr>
                <th>Of</th>
                <th className="num">Strips</th>
                <th className="num">Trials</th>
                <th className="num">Bias</th>
                <th className="num">Interval</th>
                <th className="num">Limits of agreement</th>
                <th>So</th>
              </tr>
            </thead>
            <tbody>
              {groups.map((one) => (
                <tr key={one.group}>
                  <td>{one.group}</td>
                  <td className="num">{one.pairs}</td>
                  <td className="num">{one.trials}</td>
                  <td className="num font-semibold">{signedPct(one.bias_pct)}</td>
                  <td className="num">
                    {signedPct(one.lower_pct)} to {signedPct(one.upper_pct)}
                  </td>
                  <td className="num">
                    {signedPct(one.limit_low_pct)} to {signedPct(one.limit_high_pct)}
                  </td>
                  <td>{one.words}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {pairs.length > 0 && (
        <details className="mt-3">
          <summary>The {pairs.length} strips</summary>
          <table aria-label="Strips with both" className="figures max-w-3xl">
            <tbody>
              {pairs.map((one) => (
                <tr key={`${one.trial_id}${one.strip}`}>
                  <td>{one.trial_title}</td>
                  <td className="num">strip {one.strip}</td>
                  <td className="num">estimated {one.estimate.text}</td>
                  <td className="num">harvested {one.harvest.text}</td>
                  <td className="num">{signedPct(one.difference_pct)}</td>
                  <td>{one.by_eye ? `${one.person}, by eye` : one.person}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </details>
      )}
    </>
  );
}
