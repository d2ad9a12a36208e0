import { useState } from "react";
import { ask, client, type RecordKind, type Schemas } from "../../api/client";
import { useTrialChanged } from "../../api/queries";
import { faultOf, useSaving } from "../../app/saving";

type Props = {
  trialId: string;
  kind: RecordKind;
  record: { id: string; version: number };
  /** What is struck, for those who do not see the row. */
  what: string;
};

const strike = (kind: RecordKind, id: string, body: Schemas["StrikeIn"]) =>
  ask(client.POST("/api/records/{kind}/{record_id}/strike", { params: { path: { kind, record_id: id } }, body }));

/** Strike a record with a reason; it stays readable, and the strike can be taken back. */
export function Strike({ trialId, kind, record, what }: Props) {
  const changed = useTrialChanged(trialId);
  const { save } = useSaving();
  const [reason, setReason] = useState<string | null>(null);
  const [problem, setProblem] = useState("");
  async function confirm() {
    try {
      await save(() => strike(kind, record.id, { struck: true, reason: reason ?? "", version: record.version }), {
        label: "strike",
        run: async () => {
          await strike(kind, record.id, { struck: false, reason: "", version: record.version + 1 });
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
      <button type="button" className="underline" onClick={() => setReason("")}>
        Strike<span className="sr-only"> {what}</span>
      </button>
    );
  return (
    <span className="flex flex-wrap items-center gap-2">
      <label className="flex items-center gap-1">
        Reason
        <input className="entry" value={reason} onChange={(event) => setReason(event.target.value)} />
      </label>
      <button type="button" className="plain" onClick={() => void confirm()}>
        Strike it
      </button>
      {problem && (
        <span role="alert" className="text-error">
          {problem}
        </span>
      )}
    </span>
  );
}
