import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { ask, client, type Trial } from "../../api/client";
import { useFields, useTrialChanged } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { useSaving } from "../../app/saving";
import { Dialog } from "../../ui/Dialog";
import { EntryField } from "../../ui/EntryField";
import { ChoiceField } from "../../ui/fields";
import { Problem } from "../../ui/Problem";
import { useForm } from "../../ui/useForm";
import { writtenMoment } from "../../ui/writing";
import { Attachments } from "../attachments/Attachments";

type Open = "" | "copy" | "bin" | "close" | "open" | "files";
const dayOf = (at: string) => writtenMoment(at, { year: true });

/** The closing that holds now; a season that was opened again is open. */
export const closingOf = (trial: Trial) => {
  const last = trial.closings.at(-1);
  return last && !last.opened_at ? last : null;
};

/** What can be done with a trial as a whole. */
export function TrialMenu({ trial }: { trial: Trial }) {
  const [open, setOpen] = useState<Open>("");
  const changed = useTrialChanged(trial.id);
  const { save } = useSaving();
  const closed = closingOf(trial);
  const designs = trial.may.includes("design");
  const path = { trial_id: trial.id };
  const archive = (archived: boolean) =>
    save(() => ask(client.POST("/api/trials/{trial_id}/archive", { params: { path }, body: { archived } })))
      .then(changed)
      .catch(() => undefined);
  const items: [string, () => void][] = [
    ["Files", () => setOpen("files")],
    ...(designs ? [["Copy it", () => setOpen("copy")] as [string, () => void]] : []),
    ...(trial.may.includes("freeze") && !closed && trial.strips.length
      ? [["Close the season", () => setOpen("close")] as [string, () => void]]
      : []),
    ...(trial.may.includes("amend") && closed
      ? [["Open the season again", () => setOpen("open")] as [string, () => void]]
      : []),
    ...(designs
      ? [
          [trial.archived ? "Take out of the archive" : "Archive", () => void archive(!trial.archived)] as [
            string,
            () => void,
          ],
        ]
      : []),
    ...(designs && !closed ? [["Put in the bin", () => setOpen("bin")] as [string, () => void]] : []),
  ];
  return (
    <>
      <details className="no-print relative">
        <summary className="plain cursor-pointer list-none">This trial</summary>
        <ul className="sheet absolute right-0 z-20 w-56 max-sm:fixed max-sm:inset-x-3 max-sm:w-auto border-2 border-base-content bg-base-100 p-1">
          {items.map(([name, run]) => (
            <li key={name}>
              <button
                type="button"
                className="min-h-11 w-full px-2 text-left hover:bg-base-200"
                onClick={(event) => {
                  event.currentTarget.closest("details")?.removeAttribute("open");
                  run();
                }}
              >
                {name}
              </button>
            </li>
          ))}
          {trial.may.includes("money") && (
            <li>
              <Link
                className="block min-h-11 content-center px-2 hover:bg-base-200"
                to={`/trials/${trial.id}/history`}
                onClick={(event) => event.currentTarget.closest("details")?.removeAttribute("open")}
              >
                History
              </Link>
            </li>
          )}
        </ul>
      </details>
      {open === "files" && (
        <Dialog title={`Files of ${trial.title}`} onClose={() => setOpen("")}>
          <Attachments of={{ trial: trial.id }} />
        </Dialog>
      )}
      {open === "copy" && <Copy trial={trial} onClose={() => setOpen("")} />}
      {open === "bin" && <Bin trial={trial} onClose={() => setOpen("")} />}
      {(open === "close" || open === "open") && <Season trial={trial} onClose={() => setOpen("")} />}
    </>
  );
}

type Props = { trial: Trial; onClose: () => void };

/** The same question in another field or season, without layout and records. */
function Copy({ trial, onClose }: Props) {
  const navigate = useNavigate();
  const changed = useTrialChanged("");
  const fields = useFields(trial.workspace_id);
  const { save } = useSaving();
  const form = useForm(
    { title: `${trial.title}, copy`, season: String(trial.season + 1), field_id: trial.field?.id ?? "" },
    async ({ title, season, field_id }) => {
      const body = { title, season: Number(season), field_id: field_id || null };
      const path = { trial_id: trial.id };
      const copy = await save(() => ask(client.POST("/api/trials/{trial_id}/copy", { params: { path }, body })));
      changed();
      onClose();
      await navigate(`/trials/${copy.id}/question`);
    },
  );
  const field = form.of("field_id");
  return (
    <Dialog title={`Copy ${trial.title}`} onClose={onClose}>
      <form onSubmit={form.submit} className="space-y-3">
        <p>
          Question, treatments, costs, seed and the wishes for the layout come along. Layout, protocol and records do
          not: every trial is drawn anew.
        </p>
        <EntryField label="Title" {...form.of("title")} />
        <EntryField label="Season, the year of harvest" {...form.of("season")} />
        <ChoiceField
          label="Field"
          value={field.value}
          error={field.error}
          onCommit={field.onChange}
          options={[["", "chosen later"], ...(fields.data ?? []).map((one): [string, string] => [one.id, one.name])]}
        />
        <Problem>{form.trouble}</Problem>
        <button type="submit" className="act min-h-11" disabled={form.busy}>
          Copy it
        </button>
      </form>
    </Dialog>
  );
}

function Bin({ trial, onClose }: Props) {
  const navigate = useNavigate();
  const changed = useTrialChanged("");
  const { workspace } = useHere();
  const { save } = useSaving();
  const form = useForm({ reason: "" }, async (body) => {
    await save(() =>
      ask(client.POST("/api/trials/{trial_id}/bin", { params: { path: { trial_id: trial.id } }, body })),
    );
    onClose();
    await navigate("/trials");
    changed();
  });
  return (
    <Dialog title={`Put ${trial.title} in the bin`} onClose={onClose}>
      <form onSubmit={form.submit} className="space-y-3">
        <p>
          It leaves every list, the ledger and what the farm learns from, with its records. For{" "}
          {workspace.bin_days ?? 90} days it can be restored under Setup, Bin; then it is removed for good.
        </p>
        <EntryField label="Reason" {...form.of("reason")} />
        <Problem>{form.trouble}</Problem>
        <button type="submit" className="act min-h-11" disabled={form.busy}>
          Put it in the bin
        </button>
      </form>
    </Dialog>
  );
}

/** Close the season after a review, or open it again for a correction. */
function Season({ trial, onClose }: Props) {
  const changed = useTrialChanged(trial.id);
  const { save } = useSaving();
  const closed = closingOf(trial);
  const path = { trial_id: trial.id };
  const form = useForm({ reason: "" }, async ({ reason }) => {
    const fresh = await save(() =>
      closed
        ? ask(client.POST("/api/trials/{trial_id}/open-season", { params: { path }, body: { reason } }))
        : ask(client.POST("/api/trials/{trial_id}/close-season", { params: { path }, body: { note: reason } })),
    );
    changed(fresh);
    onClose();
  });
  return (
    <Dialog title={closed ? "Open the season again" : "Close the season"} onClose={onClose}>
      <form onSubmit={form.submit} className="space-y-3">
        <p>
          {closed
            ? `It was closed by ${closed.by} on ${dayOf(closed.at)}. Who opened it and why stands beside the verdict from now on.`
            : "You have looked through loads, strips and what went otherwise. From now on nothing recorded here changes, and the verdict is final; a correction opens the season again, with a reason."}
        </p>
        <EntryField label={closed ? "Reason" : "Note, if you like"} {...form.of("reason")} />
        <Problem>{form.trouble}</Problem>
        <button type="submit" className="act min-h-11" disabled={form.busy}>
          {closed ? "Open it again" : "Close it"}
        </button>
      </form>
    </Dialog>
  );
}

/** How the season was reviewed: closed by whom, opened again why. */
export function Reviewed({ trial }: { trial: Trial }) {
  const closed = closingOf(trial);
  const opened = trial.closings.filter((closing) => closing.opened_at);
  if (!closed && !opened.length) return null;
  return (
    <div className="muted mt-1 text-sm">
      {opened.map((closing) => (
        <p key={closing.at}>
          Closed by {closing.by} on {dayOf(closing.at)}; opened again by {closing.opened_by} on{" "}
          {dayOf(closing.opened_at ?? "")}: {closing.reason}
        </p>
      ))}
      {closed && (
        <p>
          Season reviewed and closed by {closed.by} on {dayOf(closed.at)}.{closed.note && ` ${closed.note}`}
        </p>
      )}
    </div>
  );
}
