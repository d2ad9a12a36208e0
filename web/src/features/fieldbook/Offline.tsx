import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { Trial } from "../../api/client";
import { packedAt, takeAlong, whyNotOffline } from "../../app/offline";
import { writtenMoment } from "../../ui/writing";

/** Whether this trial can be opened without a signal, and the button that makes it so. */
export function Offline({ trial }: { trial: Trial }) {
  const cache = useQueryClient();
  const [packed, setPacked] = useState(() => packedAt(trial.id));
  const [state, setState] = useState<"" | "reading" | "failed">("");
  const why = whyNotOffline();
  if (why) return <p className="muted max-w-40 text-xs leading-tight">{why}</p>;
  const when = packed ? writtenMoment(packed) : "";
  async function take() {
    setState("reading");
    try {
      await takeAlong(cache, trial.id, trial.workspace_id);
      setPacked(packedAt(trial.id));
      setState("");
    } catch {
      setState("failed");
    }
  }
  const words =
    state === "failed" ? "Not stored: no signal, or this browser keeps no pages." : packed ? `Stored ${when}` : "";
  return (
    <div className="flex shrink-0 items-center gap-1.5">
      {words && <span className="muted max-w-28 text-right text-xs leading-tight">{words}</span>}
      <button
        type="button"
        className="plain min-h-12"
        title="Store this trial on the device, so that the field book opens without a signal"
        disabled={state === "reading"}
        onClick={() => void take()}
      >
        {state === "reading" ? "Storing …" : packed ? "Store again" : "Take along"}
      </button>
    </div>
  );
}
