import { Stake } from "../../../ui/marks";
import type { Stage } from "../TrialFrame";

/** Every strip in field order. */
export function StripTable({ trial, select, selected }: Stage) {
  const split = trial.strips.some((strip) => strip.main > 0);
  const rows = trial.strips.some((strip) => strip.row > 1);
  return (
    <div className="mt-2 max-h-72 overflow-y-auto">
      <table className="figures">
        <thead>
          <tr>
            <th className="num">Strip</th>
            <th>Block</th>
            {split && <th className="num">Main strip</th>}
            {rows && <th className="num">Row</th>}
            <th>Treatment</th>
            <th className="num">Width</th>
            <th className="num">Length</th>
            <th className="num">Area</th>
            <th>Note</th>
          </tr>
        </thead>
        <tbody>
          {trial.strips.map((strip) => {
            const planned = trial.treatments.find((treatment) => treatment.id === strip.treatment_id);
            return (
              <tr key={strip.id} className={strip.id === selected?.id ? "outline-2 outline-accent" : ""}>
                <td className="num">
                  <button type="button" className="underline" onClick={() => select(strip)}>
                    {strip.order}
                  </button>
                </td>
                <td>{strip.block_name}</td>
                {split && <td className="num">{strip.main}</td>}
                {rows && <td className="num">{strip.row}</td>}
                <td>
                  {planned && <Stake letter={planned.letter} position={planned.position} />} {planned?.name}
                </td>
                <td className="num">{strip.width?.text}</td>
                <td className="num">{strip.length?.text}</td>
                <td className="num">{strip.area?.text}</td>
                <td>{strip.reason}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
