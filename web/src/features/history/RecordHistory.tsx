import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type RecordKind } from "../../api/client";
import { Dialog } from "../../ui/Dialog";
import { Waiting } from "../../ui/Waiting";
import { Entries } from "./Entries";

/** Opens what was done to one record. */
export function RecordHistory({ kind, id, what }: { kind: RecordKind; id: string; what: string }) {
  const [open, setOpen] = useState(false);
  const history = useQuery({
    queryKey: ["record-history", kind, id],
    queryFn: () =>
      ask(client.GET("/api/records/{kind}/{record_id}/history", { params: { path: { kind: kind, record_id: id } } })),
    enabled: open,
    staleTime: 0,
  });
  return (
    <>
      <button type="button" className="underline" onClick={() => setOpen(true)}>
        History<span className="sr-only"> of {what}</span>
      </button>
      {open && (
        <Dialog title={`History of ${what}`} onClose={() => setOpen(false)}>
          <Waiting query={history} />
          {history.data && <Entries entries={history.data} />}
        </Dialog>
      )}
    </>
  );
}
