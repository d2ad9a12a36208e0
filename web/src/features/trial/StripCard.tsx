import type { Strip, Trial } from "../../api/client";
import { Stake } from "../../ui/marks";
import { Worked } from "../../ui/working";

/** One line on the selected strip, wherever it was selected. */
export function StripCard({ strip, trial }: { strip: Strip; trial: Trial }) {
  const planned = trial.treatments.find((treatment) => treatment.id === strip.treatment_id);
  const received = trial.treatments.find((treatment) => treatment.id === strip.received_id);
  return (
    <p
      className="mt-1 flex flex-wrap items-center gap-x-3 border-l-4 border-accent bg-(--paper) px-2 py-0.5"
      role="status"
    >
      <span className="font-semibold">
        Strip {strip.order}, {strip.block_name}
      </span>
      {received && (
        <span>
          <Stake letter={received.letter} position={received.position} /> {received.name}
        </span>
      )}
      {planned && planned.id !== received?.id && (
        <span>
          planned was {planned.letter}: {strip.reason}
        </span>
      )}
      {strip.lost && <span>lost: {strip.reason}</span>}
      {strip.deviations.length > 0 && <b>{strip.deviations.join(", ").toLowerCase()}</b>}
      {strip.events.map((text) => (
        <span key={text}>{text}</span>
      ))}
      {strip.depth && (
        <span>
          {strip.depth.text} deep from {strip.depths} dug
        </span>
      )}
      <span>{strip.stand ? `stand ${strip.stand.text} from ${strip.counts} counts` : "no count yet"}</span>
      {strip.estimate && (
        <span>
          estimated {strip.estimate.text} from {strip.samples} {strip.samples === 1 ? "sample" : "samples"}
        </span>
      )}
      <span>{strip.yield_ ? `yield ${strip.yield_.text}` : "not harvested"}</span>
      {strip.net_return && (
        <span>
          net return <Worked working={strip.net_return_working}>{strip.net_return.text}</Worked>
        </span>
      )}
    </p>
  );
}
