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
          learned={groups.find((group) => group.group.startsWith(stage.trial.crop_name))}
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
              {groups.map((group) => (
                <tr key={group.group}>
                  <td>{group.group}</td>
                  <td className="num">{group.pairs}</td>
                  <td className="num">{group.trials}</td>
                  <td className="num font-semibold">{signedPct(group.bias_pct)}</td>
                  <td className="num">
                    {signedPct(group.lower_pct)} to {signedPct(group.upper_pct)}
                  </td>
                  <td className="num">
                    {signedPct(group.limit_low_pct)} to {signedPct(group.limit_high_pct)}
                  </td>
                  <td>{group.words}</td>
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
              {pairs.map((pair) => (
                <tr key={`${pair.trial_id}${pair.strip}`}>
                  <td>{pair.trial_title}</td>
                  <td className="num">strip {pair.strip}</td>
                  <td className="num">estimated {pair.estimate.text}</td>
                  <td className="num">harvested {pair.harvest.text}</td>
                  <td className="num">{signedPct(pair.difference_pct)}</td>
                  <td>{pair.by_eye ? `${pair.person}, by eye` : pair.person}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </details>
      )}
    </>
  );
}
