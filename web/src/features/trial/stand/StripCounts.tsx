import type { Schemas } from "../../../api/client";
import { useStripCounts } from "../../../api/queries";
import { Waiting } from "../../../ui/Waiting";
import { Worked } from "../../../ui/working";
import type { Stage } from "../TrialFrame";
import { VoidRecord } from "../VoidRecord";

type Count = Schemas["StandCountOut"];
type Props = Stage & { stand: Schemas["StripStandOut"]; visit: number | null };

/** The single counts of the selected strip, each with its working; voiding keeps the record with its reason. */
export function StripCounts({ trial, stand, visit, selected, writable }: Props) {
  const asked = useStripCounts(trial.id, stand.strip_id, visit, stand.number > 0);
  if (!stand.number) return null;
  if (!asked.data) return <Waiting query={asked} />;
  return (
    <section aria-label={`Counts of strip ${selected?.order}`} className="sheet mt-3 p-2">
      <h3>Counts of strip {selected?.order}</h3>
      <ul>
        {asked.data.map((count) => (
          <CountLine key={count.id} count={count} trialId={trial.id} writable={writable} />
        ))}
      </ul>
    </section>
  );
}

function CountLine({ count, trialId, writable }: { count: Count; trialId: string; writable: boolean }) {
  return (
    <li className="flex flex-wrap items-center gap-x-3 border-b border-base-300 py-1">
      <span>
        {count.plants} plants on{" "}
        {count.method === "rows"
          ? `${count.length.text} ${count.length.unit} × ${count.rows} rows at ${count.row_spacing.text} ${count.row_spacing.unit}`
          : count.method === "hoop"
            ? `a hoop ${count.diameter.text} ${count.diameter.unit} across`
            : `${count.area.text} ${count.area.unit}`}
        {count.place !== null && `, place ${count.place}`}
        {count.by_eye && ", by eye"}
        {count.gaps !== null && `, ${count.gaps} gaps`}
        {count.doubles !== null && `, ${count.doubles} doubles`}
      </span>
      {count.working && <Worked working={count.working}>{count.stand.text}</Worked>}
      <span className="muted text-sm">
        {count.recorded_by}
        {count.clock_shift_s !== null && ", time corrected: the device's clock was wrong"}
      </span>
      {count.questions.map((question) => (
        <span key={question.code} className="basis-full text-sm font-medium">
          ? {question.text}
        </span>
      ))}
      {writable && (
        <VoidRecord trialId={trialId} kind="stand-count" record={count} what={`the count of ${count.plants}`} />
      )}
    </li>
  );
}
