import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type Schemas } from "../../api/client";
import { useHere } from "../../app/Gate";
import { may } from "../../app/rights";
import { faultOf, useSaving } from "../../app/saving";
import { EntryField } from "../../ui/EntryField";
import { Problem } from "../../ui/Problem";
import { Waiting } from "../../ui/Waiting";
import { writtenMoment } from "../../ui/writing";

type Attachment = Schemas["AttachmentOut"];
/** What the files are kept with. */
export type FilesOf = { trial: string } | { lot: string };

const read = (of: FilesOf) =>
  "trial" in of
    ? ask(client.GET("/api/trials/{trial_id}/attachments", { params: { path: { trial_id: of.trial } } }))
    : ask(client.GET("/api/seed-lots/{lot_id}/attachments", { params: { path: { lot_id: of.lot } } }));

function send(of: FilesOf, file: File, kind: string, note: string) {
  const form = new FormData();
  form.append("kind", kind);
  form.append("note", note);
  form.append("file", file);
  const attachment_id = crypto.randomUUID();
  const sent = { body: form as never, bodySerializer: (body: unknown) => body as FormData };
  return "trial" in of
    ? ask(
        client.POST("/api/trials/{trial_id}/attachments/{attachment_id}", {
          params: { path: { trial_id: of.trial, attachment_id } },
          ...sent,
        }),
      )
    : ask(
        client.POST("/api/seed-lots/{lot_id}/attachments/{attachment_id}", {
          params: { path: { lot_id: of.lot, attachment_id } },
          ...sent,
        }),
      );
}

const sizeWords = (bytes: number) => (bytes < 1e6 ? `${Math.ceil(bytes / 1000)} kB` : `${(bytes / 1e6).toFixed(1)} MB`);

/** Laboratory sheets, labels and invoices kept with a trial or a lot; they leave as downloads only. */
export function Attachments({ of }: { of: FilesOf }) {
  const { workspace } = useHere();
  const cache = useQueryClient();
  const { save } = useSaving();
  const key = ["attachments", "trial" in of ? of.trial : of.lot];
  const files = useQuery({ queryKey: key, queryFn: () => read(of) });
  const [kind, setKind] = useState("laboratory");
  const [note, setNote] = useState("");
  const [problem, setProblem] = useState("");
  async function run(work: () => Promise<Schemas["AttachmentsOut"]>) {
    try {
      cache.setQueryData(key, await save(work));
      setProblem("");
      return true;
    } catch (error) {
      setProblem(faultOf(error).message);
      return false;
    }
  }
  return (
    <div className="space-y-3">
      <Waiting query={files} />
      {files.data && !files.data.attachments.length && <p className="muted">No file yet.</p>}
      <ul className="divide-y divide-base-300">
        {files.data?.attachments.map((item) => (
          <OneFile key={item.id} item={item} onTakenAway={(work) => run(work)} />
        ))}
      </ul>
      {may(workspace, "record") && files.data && (
        <div className="grid items-end gap-3 sm:grid-cols-[10rem_1fr_auto]">
          <label>
            Kind
            <select className="entry" value={kind} onChange={(event) => setKind(event.target.value)}>
              {files.data.kinds.map(([value, name]) => (
                <option key={value} value={value}>
                  {name}
                </option>
              ))}
            </select>
          </label>
          <EntryField label="Note, if you like" value={note} onChange={setNote} error={null} />
          <label className="plain min-h-11 content-center">
            Add a file
            <input
              type="file"
              aria-label="File to keep here"
              className="sr-only"
              onChange={(event) => {
                const file = event.target.files?.[0];
                event.target.value = "";
                if (file)
                  void run(() => send(of, file, kind, note)).then((kept) => {
                    if (kept) setNote("");
                  });
              }}
            />
          </label>
        </div>
      )}
      <Problem>{problem}</Problem>
      {files.data && <p className="muted text-sm">At most {files.data.limit_mb} MB each.</p>}
    </div>
  );
}

type FileProps = {
  item: Attachment;
  onTakenAway: (work: () => Promise<Schemas["AttachmentsOut"]>) => Promise<boolean>;
};

function OneFile({ item, onTakenAway }: FileProps) {
  const { workspace } = useHere();
  const [reason, setReason] = useState<string | null>(null);
  const path = { attachment_id: item.id };
  return (
    <li className="py-2">
      <p className="flex flex-wrap items-baseline gap-x-3">
        <a className="worked min-w-0 break-words" href={`/api/attachments/${item.id}`} download>
          {item.name}
        </a>
        <span className="muted text-sm">
          {item.kind_name}, {sizeWords(item.size)}, {item.added_by}, {writtenMoment(item.added_at, { year: true })}
        </span>
        {may(workspace, "record") && reason === null && (
          <button type="button" className="ml-auto underline" onClick={() => setReason("")}>
            Take away<span className="sr-only"> {item.name}</span>
          </button>
        )}
      </p>
      {item.note && <p className="text-sm">{item.note}</p>}
      {reason !== null && (
        <div className="flex flex-wrap items-end gap-2">
          <EntryField label="Reason" value={reason} onChange={setReason} error={null} />
          <button
            type="button"
            className="plain min-h-11"
            onClick={() =>
              void onTakenAway(() =>
                ask(client.POST("/api/attachments/{attachment_id}/void", { params: { path }, body: { reason } })),
              )
            }
          >
            Take it away
          </button>
        </div>
      )}
    </li>
  );
}
