import { useState } from "react";
import { ask, client, type Schemas } from "../../api/client";
import { useTrialChanged } from "../../api/queries";
import { faultOf, useSaving } from "../../app/saving";
import { Worked } from "../../ui/working";
import type { Stage } from "./TrialFrame";

type Count = Schemas["StandCountOut"];

/** The single counts of the selected strip, each with its working; striking keeps the record with its reason. */
export function StripCounts({ trial, stand, selected, writable }: Stage & { stand: Schemas["StripStandOut"] }) {
  if (!stand.counts.length) return null;
  return (
    <section aria-label={`Counts of strip ${selected?.order}`} className="sheet mt-3 p-2">
      <h3>Counts of strip {selected?.order}</h3>
      <ul>
        {stand.counts.map((count) => (
          <CountLine key={count.id} count={count} trialId={trial.id} writable={writable} />
        ))}
      </ul>
    </section>
  );
}

function CountLine({ count, trialId, writable }: { count: Count; trialId: string; writable: boolean }) {
  const changed = useTrialChanged(trialId);
  const { save } = useSaving();
  const [reason, setReason] = useState<string | null>(null);
  const [problem, setProblem] = useState("");
  const strike = (struck: boolean, why: string, version: number) =>
    ask(
      client.POST("/api/records/{kind}/{record_id}/strike", {
        params: { path: { kind: "stand-count", record_id: count.id } },
        body: { struck, reason: why, version },
      }),
    );

  async function confirm() {
    try {
      await save(() => strike(true, reason ?? "", count.version), {
        label: "strike",
        run: async () => {
          await strike(false, "", count.version + 1);
          changed();
        },
      });
      changed();
    } catch (error) {
      setProblem(faultOf(error).message);
    }
  }

  return (
    <li className="flex flex-wrap items-center gap-x-3 border-b border-base-300 py-1">
      <span>
        {count.plants} plants on{" "}
        {count.method === "rows"
          ? `${count.length.text} ${count.length.unit} × ${count.rows} rows at ${count.row_spacing.text} ${count.row_spacing.unit}`
          : `${count.area.text} ${count.area.unit}`}
        {count.by_eye && ", by eye"}
      </span>
      <Worked working={count.working}>{count.stand.text}</Worked>
      <span className="muted text-sm">{count.recorded_by}</span>
      {count.questions.map((question) => (
        <span key={question.code} className="basis-full text-sm font-medium">
          ? {question.text}
        </span>
      ))}
      {writable &&
        (reason === null ? (
          <button type="button" className="underline" onClick={() => setReason("")}>
            Strike
          </button>
        ) : (
          <span className="flex items-center gap-2">
            <label className="flex items-center gap-1">
              Reason
              <input className="entry" value={reason} onChange={(event) => setReason(event.target.value)} />
            </label>
            <button type="button" className="plain" onClick={() => void confirm()}>
              Strike it
            </button>
          </span>
        ))}
      {problem && (
        <span role="alert" className="text-error">
          {problem}
        </span>
      )}
    </li>
  );
}
