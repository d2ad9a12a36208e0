import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { Trial } from "../../api/client";
import { packedAt, takeAlong, whyNotOffline } from "../../app/offline";

/** Whether this trial can be opened without a signal, and the button that makes it so. */
export function OfflineLine({ trial }: { trial: Trial }) {
  const cache = useQueryClient();
  const [packed, setPacked] = useState(() => packedAt(trial.id));
  const [state, setState] = useState<"" | "reading" | "failed">("");
  const why = whyNotOffline();
  if (why) return <p className="muted text-sm">{why}</p>;
  const when = packed
    ? new Date(packed).toLocaleString("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" })
    : "";
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
  return (
    <p className="flex items-center justify-between gap-2 text-sm">
      <span className={packed ? "muted" : "font-medium"}>
        {state === "failed"
          ? "Not stored: no signal, or this browser keeps no pages."
          : packed
            ? `Stored for use without a signal, ${when}`
            : "Not stored yet: needs a signal to open"}
      </span>
      <button
        type="button"
        className="plain min-h-12 shrink-0"
        disabled={state === "reading"}
        onClick={() => void take()}
      >
        {state === "reading" ? "Storing …" : packed ? "Store again" : "Take along"}
      </button>
    </p>
  );
}
