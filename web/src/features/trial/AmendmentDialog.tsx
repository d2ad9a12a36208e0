import { useState } from "react";
import { Dialog } from "../../ui/Dialog";
import type { Writes } from "./writes";

/** Asks for the reason of a change to the frozen protocol; without one nothing is changed. */
export function AmendmentDialog({ frozen }: { frozen: NonNullable<Writes["frozen"]> }) {
  const [reason, setReason] = useState("");
  return (
    <Dialog title="Amend the protocol" onClose={() => frozen.settle(null)}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (reason.trim()) frozen.settle(reason.trim());
        }}
      >
        <p>{frozen.message}</p>
        <label className="mt-2 block">
          Reason of the amendment
          <textarea
            className="entry"
            rows={2}
            maxLength={300}
            data-first
            value={reason}
            onChange={(event) => setReason(event.target.value)}
          />
        </label>
        <div className="mt-3 flex gap-3">
          <button type="submit" className="act" disabled={!reason.trim()}>
            Amend
          </button>
          <button type="button" className="plain" onClick={() => frozen.settle(null)}>
            Leave it as frozen
          </button>
        </div>
      </form>
    </Dialog>
  );
}
