import type { Schemas } from "../../../api/client";
import { AgreementPlot } from "../../../ui/charts/AgreementPlot";
import type { Stage } from "../TrialFrame";

/** Scale against log, strip by strip, with bias and limits of agreement. */
export function Beside({ stage, logs }: { stage: Stage; logs: Schemas["YieldLogsOut"] }) {
  const held = logs.logs.filter((log) => log.agreement);
  if (!held.length) {
    return (
      <p className="muted">
        Scale and log are held against each other once three strips have both a weighed load and a yield from a log.
      </p>
    );
  }
  return (
    <>
      {held.map((log) => (
        <section key={log.id} aria-label={`Scale and ${log.name}`}>
          <h3>{log.name}</h3>
          <p>{log.agreement?.words}</p>
          {log.calibrated && log.calibration?.factor && (
            <p className="muted">
              The log is brought to these same loads (× {log.calibration.factor}), so the bias says little; the limits
              do.
            </p>
          )}
          {log.agreement && (
            <AgreementPlot
              agreement={log.agreement}
              strips={log.strips.filter((strip) => strip.scale && strip.yield_)}
              treatments={stage.trial.treatments}
            />
          )}
        </section>
      ))}
    </>
  );
}
