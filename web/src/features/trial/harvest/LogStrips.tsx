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
  const scaled = log.strips.some((strip) => strip.scale);
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
            {log.strips.map((strip) => (
              <tr key={strip.strip_id}>
                <td className="num">{strip.order}</td>
                <td>{strip.letter}</td>
                <td className="num">{strip.readings}</td>
                <td className="num muted">{strip.effective === null ? "" : strip.effective.toFixed(0)}</td>
                <td className="num muted">{strip.raw?.text}</td>
                <td className="num font-semibold">
                  {strip.yield_ ? <Worked working={strip.working}>{strip.yield_.text}</Worked> : "too few readings"}
                </td>
                <td className="num">{strip.se?.text}</td>
                {scaled && <td className="num">{strip.scale?.text}</td>}
                {scaled && (
                  <td className="num">
                    {strip.difference?.text}
                    {strip.difference_pct !== null && (
                      <span className="muted"> ({signedPct(strip.difference_pct, 1)})</span>
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
            ...log.strips.map((strip) => [
              strip.order,
              strip.letter,
              strip.readings,
              strip.yield_?.text ?? "",
              strip.se?.text ?? "",
              strip.scale?.text ?? "",
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
  const logCalibration = log.calibration;
  if (!logCalibration) {
    return (
      <p className="muted mt-2">
        No weighed load to bring the log to: weigh some strips, and the monitor is calibrated on them.
      </p>
    );
  }
  const out = logCalibration.loads.filter((load) => !load.used).map((load) => load.load_id);
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
        Bring the log to the scale. <span className={log.calibrated ? "" : "muted"}>{logCalibration.words}</span>
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
            {logCalibration.loads.map((load) => (
              <tr key={load.load_id} className={load.used ? "" : "muted"}>
                <td>
                  <input
                    type="checkbox"
                    aria-label={`Use the load of strip ${load.strip}`}
                    checked={load.used}
                    disabled={!writable}
                    onChange={() =>
                      onLeaveOut(load.used ? [...out, load.load_id] : out.filter((id) => id !== load.load_id))
                    }
                  />
                </td>
                <td className="num">{load.strip}</td>
                <td className="num">{load.scale}</td>
                <td className="num">{load.logged}</td>
                <td className={`num ${load.far ? "font-semibold" : ""}`}>
                  {load.residual_pct === null ? "" : signedPct(load.residual_pct, 1)}
                  {load.far && " ?"}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </details>
    </fieldset>
  );
}
