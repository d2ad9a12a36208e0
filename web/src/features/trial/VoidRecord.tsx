import { useState } from "react";
import { ask, client, type RecordKind, type Schemas } from "../../api/client";
import { useTrialChanged } from "../../api/queries";
import { faultOf, useSaving } from "../../app/saving";
import { RecordHistory } from "../history/RecordHistory";

type Props = {
  trialId: string;
  kind: RecordKind;
  record: { id: string; version: number };
  /** What is voided, for those who do not see the row. */
  what: string;
};

const voidRecord = (kind: RecordKind, id: string, body: Schemas["VoidIn"]) =>
  ask(client.POST("/api/records/{kind}/{record_id}/void", { params: { path: { kind, record_id: id } }, body }));

/** Void a record with a reason; it stays readable, and can be restored. */
export function VoidRecord({ trialId, kind, record, what }: Props) {
  const changed = useTrialChanged(trialId);
  const { save } = useSaving();
  const [reason, setReason] = useState<string | null>(null);
  const [problem, setProblem] = useState("");
  async function confirm() {
    try {
      await save(() => voidRecord(kind, record.id, { voided: true, reason: reason ?? "", version: record.version }), {
        label: "void",
        run: async () => {
          await voidRecord(kind, record.id, { voided: false, reason: "", version: record.version + 1 });
          changed();
        },
      });
      changed();
    } catch (error) {
      setProblem(faultOf(error).message);
    }
  }
  if (reason === null)
    return (
      <span className="flex gap-3">
        <RecordHistory kind={kind} id={record.id} what={what} />
        <button type="button" className="underline" onClick={() => setReason("")}>
          Void<span className="sr-only"> {what}</span>
        </button>
      </span>
    );
  return (
    <span className="flex flex-wrap items-center gap-2">
      <label className="flex items-center gap-1">
        Reason
        <input className="entry" value={reason} onChange={(event) => setReason(event.target.value)} />
      </label>
      <button type="button" className="plain" onClick={() => void confirm()}>
        Void it
      </button>
      {problem && (
        <span role="alert" className="text-error">
          {problem}
        </span>
      )}
    </span>
  );
}
