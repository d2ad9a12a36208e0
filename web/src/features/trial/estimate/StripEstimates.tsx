import type { Schemas } from "../../../api/client";
import { usePicking } from "../../../api/queries";
import { EstimatePlot, type Row } from "../../../ui/charts/EstimatePlot";
import { PickingPlot } from "../../../ui/charts/PickingPlot";
import { Flag, Stake } from "../../../ui/marks";
import { signedPct } from "../../../ui/percent";
import { Worked } from "../../../ui/working";
import { JoinedDays } from "../JoinedDays";
import { Named } from "../stand/Emergence";
import type { Stage } from "../TrialFrame";

type Estimates = Schemas["EstimatesOut"];
type Props = { stage: Stage; estimates: Estimates };

/** Strips and treatments with their intervals, what the interval is made of, and the cheapest way to narrow it. */
export function StripEstimates({ stage, estimates }: Props) {
  const rows = rowsOf(stage, estimates);
  if (!rows.some((row) => row.strips.length))
    return (
      <p className="muted">
        Nothing sampled yet. Draw the places first (Which plants), then sample in the field book; the estimate and its
        interval appear here and on the ribbon.
      </p>
    );
  const unit =
    rows
      .flatMap((row) => row.strips)[0]
      ?.estimate.value.text.split(" ")
      .slice(1)
      .join(" ") ?? "";
  return (
    <>
      <EstimatePlot rows={rows} unit={unit} />
      <Treatments stage={stage} estimates={estimates} />
      {estimates.words.map((text) => (
        <p key={text} className="muted max-w-3xl">
          {text}
        </p>
      ))}
      <JoinedDays trialId={stage.trial.id} writable={stage.writable} task="yield" leftOut={estimates.left_out} />
      <Narrow estimates={estimates} />
      {estimates.by_eye > 0 && <ByEye stage={stage} estimates={estimates} />}
      <StripTable stage={stage} estimates={estimates} />
    </>
  );
}

function rowsOf({ trial }: Stage, estimates: Estimates): Row[] {
  const result = new Map(estimates.strips.map((strip) => [strip.strip_id, strip.estimate]));
  return trial.treatments.map((treatment) => ({
    id: treatment.id,
    letter: treatment.letter,
    name: treatment.name,
    position: treatment.position,
    whole: estimates.treatments.find((treatmentEstimate) => treatmentEstimate.treatment_id === treatment.id),
    strips: trial.strips.flatMap((strip) => {
      const estimate = result.get(strip.id);
      return estimate && strip.received_id === treatment.id ? [{ order: strip.order, estimate }] : [];
    }),
  }));
}

function Treatments({ stage, estimates }: Props) {
  return (
    <section aria-label="Provisional comparison" className="mt-3">
      <h3>Treatments so far, provisional</h3>
      <div className="overflow-x-auto">
        <table aria-label="Estimates by treatment" className="figures">
          <thead>
            <tr>
              <th>Treatment</th>
              <th className="num">Strips</th>
              <th className="num">Estimate</th>
              <th className="num">Interval, grain weight and all</th>
              <th className="num">Against the control</th>
              <th className="num">Interval over strips</th>
            </tr>
          </thead>
          <tbody>
            {estimates.treatments.map((treatment) => (
              <tr key={treatment.treatment_id}>
                <td>
                  <Named treatment={stage.trial.treatments.find((other) => other.id === treatment.treatment_id)} />
                </td>
                <td className="num">{treatment.strips}</td>
                <td className="num">{treatment.mean?.text ?? "–"}</td>
                <td className="num">
                  {treatment.lower && treatment.upper ? `${treatment.lower.text} to ${treatment.upper.text}` : "–"}
                </td>
                <td className="num">{treatment.difference?.text ?? "–"}</td>
                <td className="num">
                  {treatment.difference_lower && treatment.difference_upper
                    ? `${treatment.difference_lower.text} to ${treatment.difference_upper.text}`
                    : "–"}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {estimates.honest_df !== null && (
        <p className="muted text-sm">
          {estimates.honest_df} degrees of freedom over strips; samples counted as replicates would claim{" "}
          {estimates.pooled_df}.
        </p>
      )}
    </section>
  );
}

function Narrow({ estimates }: { estimates: Estimates }) {
  const widest = estimates.strips.flatMap((strip) => strip.estimate ?? []).sort((a, b) => b.half_pct - a.half_pct)[0];
  const best = estimates.narrow[0];
  if (!widest) return null;
  return (
    <section aria-label="What the interval is made of" className="sheet mt-4 max-w-3xl p-3">
      <h3>What the interval is made of{estimates.narrow_strip && `, on strip ${estimates.narrow_strip}`}</h3>
      <ul className="mt-1 space-y-1">
        {widest.parts.map((part) => (
          <li key={part.key} className="grid grid-cols-[1fr_9rem_3.5rem] items-center gap-2">
            <span>
              {part.name}
              {part.assumed && <span className="muted">, not seen here</span>}
            </span>
            <span className="h-4 border border-base-content">
              <span className="block h-full bg-base-content" style={{ width: `${part.share_pct}%` }} />
            </span>
            <span className="num text-right">{part.share_pct.toFixed(0)} %</span>
          </li>
        ))}
      </ul>
      {best && (
        <p className="mt-2 flex items-start gap-2">
          <Flag className="mt-1 h-5 w-5 shrink-0" />
          <span>
            <b>Narrowed most cheaply: {best.words}</b>, {best.minutes} minutes: {widest.half_pct.toFixed(0)} % becomes{" "}
            {best.half_pct.toFixed(0)} % upwards.
            {estimates.narrow.slice(1).map((way) => (
              <span key={way.words} className="muted">
                {" "}
                Or {way.words}, {way.minutes} minutes: {way.half_pct.toFixed(0)} %.
              </span>
            ))}
          </span>
        </p>
      )}
    </section>
  );
}

/** What choosing does, on this trial where it can be seen and on a simulated crop as uneven as this one. */
export function ByEye({ stage, estimates }: Props) {
  const picking = usePicking(stage.trial.id);
  return (
    <section aria-label="Samples taken by eye" className="sheet mt-4 max-w-3xl p-3">
      <h3>{estimates.by_eye === 1 ? "One sample was" : `${estimates.by_eye} samples were`} taken by eye</h3>
      <p className="font-medium">
        {estimates.eye?.words ?? "No strip was sampled both ways, so what it did is not seen."}
      </p>
      {picking.data && (
        <>
          <PickingPlot picking={picking.data} />
          <p className="muted">{picking.data.words}</p>
        </>
      )}
    </section>
  );
}

function StripTable({ stage, estimates }: Props) {
  const { trial, selected, select } = stage;
  const of = new Map(estimates.strips.map((strip) => [strip.strip_id, strip]));
  return (
    <div className="overflow-x-auto">
      <table aria-label="Estimates of strips" className="figures mt-4">
        <thead>
          <tr>
            <th className="num">Strip</th>
            <th>Treatment</th>
            <th className="num">Estimate</th>
            <th className="num">Interval</th>
            <th className="num">Places</th>
            <th className="num">Pieces</th>
            <th className="num">Light to heavy grain</th>
            <th className="num">Had means been multiplied</th>
          </tr>
        </thead>
        <tbody>
          {trial.strips.map((strip) => {
            const estimate = of.get(strip.id)?.estimate;
            const treatment = trial.treatments.find((item) => item.id === strip.received_id);
            return (
              <tr key={strip.id} className={strip.id === selected?.id ? "outline-2 outline-accent" : ""}>
                <td className="num">
                  <button type="button" className="underline" onClick={() => select(strip)}>
                    {strip.order}
                  </button>
                </td>
                <td>{treatment && <Stake letter={treatment.letter} position={treatment.position} />}</td>
                {estimate ? (
                  <>
                    <td className="num">
                      <Worked working={estimate.working}>{estimate.value.text}</Worked>
                      {estimate.by_eye > 0 && " by eye"}
                    </td>
                    <td className="num">
                      {estimate.lower.text} to {estimate.upper.text}
                    </td>
                    <td className="num">{estimate.places}</td>
                    <td className="num">{estimate.pieces}</td>
                    <td className="num">
                      {estimate.stressed && estimate.excellent
                        ? `${estimate.stressed.text} to ${estimate.excellent.text}`
                        : "–"}
                    </td>
                    <td className="num">{signedPct(estimate.means_pct, 1)}</td>
                  </>
                ) : (
                  <td colSpan={6} className="muted">
                    {strip.lost ? `lost: ${strip.reason}` : "not sampled"}
                  </td>
                )}
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
