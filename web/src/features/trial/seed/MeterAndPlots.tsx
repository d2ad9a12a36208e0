import type { ReactNode } from "react";
import { Stake } from "../../../ui/marks";
import { Worked } from "../../../ui/working";
import { KeptForm } from "./KeptForm";
import type { SeedProps } from "./Rates";

/** Discs and sprockets nearest to each treatment's rate, and counted seed for small plots. */
export function MeterAndPlots({ stage, seed }: SeedProps) {
  const named = (id: string) => {
    const result = stage.trial.treatments.find((treatment) => treatment.id === id);
    return (
      result && (
        <>
          <Stake letter={result.letter} position={result.position} /> {result.name}
        </>
      )
    );
  };
  return (
    <>
      <Part title="A seed meter with discs and sprockets" open={seed.meter.length > 0 || Boolean(seed.meter_problem)}>
        <KeptForm stage={stage} name="meter" kept={seed.kept.meter} problem={seed.meter_problem} />
        {seed.meter.length > 0 && (
          <table aria-label="Nearest rates of the meter" className="figures mt-2 max-w-3xl">
            <thead>
              <tr>
                <th>Treatment</th>
                <th>Nearest combination</th>
                <th className="num">It sows</th>
                <th className="num">Off</th>
              </tr>
            </thead>
            <tbody>
              {seed.meter.map((row) => (
                <tr key={row.treatment_id}>
                  <td>{named(row.treatment_id)}</td>
                  <td>
                    <Worked working={row.working}>{row.combination}</Worked>
                  </td>
                  <td className="num">{row.rate}</td>
                  <td className="num">{row.off}</td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </Part>
      <Part title="Counted seed for small plots" open={seed.envelopes.length > 0 || Boolean(seed.envelope_problem)}>
        <KeptForm stage={stage} name="envelope" kept={seed.kept.envelope} problem={seed.envelope_problem} />
        {seed.envelopes.length > 0 && (
          <table aria-label="Seed in each envelope" className="figures mt-2 max-w-3xl">
            <thead>
              <tr>
                <th>Treatment</th>
                <th className="num">Seeds a row</th>
                <th className="num">Seeds a plot</th>
                <th className="num">They weigh</th>
              </tr>
            </thead>
            <tbody>
              {seed.envelopes.map((row) => (
                <tr key={row.treatment_id}>
                  <td>{named(row.treatment_id)}</td>
                  <td className="num">{row.a_row}</td>
                  <td className="num">
                    <Worked working={row.working}>{row.seeds}</Worked>
                  </td>
                  <td className="num">{row.weight}</td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </Part>
    </>
  );
}

function Part({ title, open, children }: { title: string; open: boolean; children: ReactNode }) {
  return (
    <details className="mt-4" open={open}>
      <summary className="cursor-pointer text-lg font-semibold">{title}</summary>
      <div className="mt-1">{children}</div>
    </details>
  );
}
