import type { Schemas } from "../../../api/client";
import { saveCsv } from "../../../ui/csv";
import { signedPct } from "../../../ui/percent";
import { Worked } from "../../../ui/working";

type Log = Schemas["YieldLogOut"];
type Props = {
  log: Log;
  writable: boolean;
  onCalibrate: (calibrated: boolean) => void;
  onLeaveOut: (loads: string[]) => void;
};

/** Strips by the log beside the scale, and the loads the log is brought to. */
export function LogStrips({ log, writable, onCalibrate, onLeaveOut }: Props) {
  const scaled = log.strips.some((one) => one.scale);
  return (
    <>
      <Calibration log={log} writable={writable} onCalibrate={onCalibrate} onLeaveOut={onLeaveOut} />
      <div className="overflow-x-auto">
        <table className="figures mt-3" aria-label="Strips by the log">
          <thead>
            <tr>
              <th className="num">Strip</th>
              <th />
              <th className="num">Readings</th>
              <th className="num">Worth about</th>
              <th className="num">Uncleaned, as cut</th>
              <th className="num">Yield by the log</th>
              <th className="num">Standard error</th>
              {scaled && <th className="num">By the scale</th>}
              {scaled && <th className="num">Scale less log</th>}
            </tr>
          </thead>
          <tbody>
            {log.strips.map((one) => (
              <tr key={one.strip_id}>
                <td className="num">{one.order}</td>
                <td>{one.letter}</td>
                <td className="num">{one.readings}</td>
                <td className="num muted">{one.effective === null ? "" : one.effective.toFixed(0)}</td>
                <td className="num muted">{one.raw?.text}</td>
                <td className="num font-semibold">
                  {one.yield_ ? <Worked working={one.working}>{one.yield_.text}</Worked> : "too few readings"}
                </td>
                <td className="num">{one.se?.text}</td>
                {scaled && <td className="num">{one.scale?.text}</td>}
                {scaled && (
                  <td className="num">
                    {one.difference?.text}
                    {one.difference_pct !== null && (
                      <span className="muted"> ({signedPct(one.difference_pct, 1)})</span>
                    )}
                  </td>
                )}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <button
        type="button"
        className="plain mt-2"
        onClick={() =>
          saveCsv("log-strips.csv", [
            ["strip", "treatment", "readings", "yield by log", "standard error", "yield by scale"],
            ...log.strips.map((one) => [
              one.order,
              one.letter,
              one.readings,
              one.yield_?.text ?? "",
              one.se?.text ?? "",
              one.scale?.text ?? "",
            ]),
          ])
        }
      >
        Save as CSV
      </button>
    </>
  );
}

function Calibration({ log, writable, onCalibrate, onLeaveOut }: Props) {
  const found = log.calibration;
  if (!found) {
    return (
      <p className="muted mt-2">
        No weighed load to bring the log to: weigh some strips, and the monitor is calibrated on them.
      </p>
    );
  }
  const out = found.loads.filter((one) => !one.used).map((one) => one.load_id);
  return (
    <fieldset className="mt-3">
      <legend className="sr-only">Calibration on scale loads</legend>
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          checked={log.calibrated}
          disabled={!writable}
          onChange={(event) => onCalibrate(event.target.checked)}
        />
        Bring the log to the scale. <span className={log.calibrated ? "" : "muted"}>{found.words}</span>
      </label>
      <details className="mt-1">
        <summary>Load by load</summary>
        <table className="figures mt-1" aria-label="Loads the log is brought to">
          <thead>
            <tr>
              <th>Used</th>
              <th className="num">Strip</th>
              <th className="num">By scale</th>
              <th className="num">By log</th>
              <th className="num">Off after calibration</th>
            </tr>
          </thead>
          <tbody>
            {found.loads.map((one) => (
              <tr key={one.load_id} className={one.used ? "" : "muted"}>
                <td>
                  <input
                    type="checkbox"
                    aria-label={`Use the load of strip ${one.strip}`}
                    checked={one.used}
                    disabled={!writable}
                    onChange={() =>
                      onLeaveOut(one.used ? [...out, one.load_id] : out.filter((id) => id !== one.load_id))
                    }
                  />
                </td>
                <td className="num">{one.strip}</td>
                <td className="num">{one.scale}</td>
                <td className="num">{one.logged}</td>
                <td className={`num ${one.far ? "font-semibold" : ""}`}>
                  {one.residual_pct === null ? "" : signedPct(one.residual_pct, 1)}
                  {one.far && " ?"}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </details>
    </fieldset>
  );
}
