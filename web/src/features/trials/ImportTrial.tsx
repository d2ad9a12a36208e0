import { type FormEvent, useState } from "react";
import { Link, useNavigate } from "react-router";
import { ask, client, Fault, type RowProblem, type Schemas } from "../../api/client";
import { useTrialChanged } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { faultOf, useSaving } from "../../app/saving";
import { useReaderUnits } from "../../ui/readerUnits";
import { guessMapping, ImportMapping, type Mapping } from "./ImportMapping";
import { ImportPackage } from "./ImportPackage";
import { ImportPreview } from "./ImportPreview";

type Preview = Schemas["PreviewOut"];
const MOST_BYTES = 5_000_000;

/** Fields as a form of the browser's own, for uploads. */
function asForm(entries: Record<string, string | Blob>): FormData {
  const form = new FormData();
  for (const [key, value] of Object.entries(entries)) form.append(key, value);
  return form;
}

/** A CSV of a finished trial: looked at, its columns named, then taken in whole or not at all. */
export function ImportTrial() {
  const { workspace } = useHere();
  const reader = useReaderUnits();
  const navigate = useNavigate();
  const changed = useTrialChanged("");
  const { save } = useSaving();
  const [file, setFile] = useState<File | null>(null);
  const [preview, setPreview] = useState<Preview | null>(null);
  const [mapping, setMapping] = useState<Mapping | null>(null);
  const [problem, setProblem] = useState<{ field: string | null; message: string } | null>(null);
  const [rows, setRows] = useState<RowProblem[]>([]);
  const [busy, setBusy] = useState(false);
  const path = { params: { path: { workspace_id: workspace.id } } };

  function refuse(error: unknown) {
    setProblem(faultOf(error));
    setRows(error instanceof Fault ? error.problems : []);
  }

  async function look(chosen: File | undefined) {
    setPreview(null);
    setRows([]);
    setProblem(null);
    setFile(chosen ?? null);
    if (!chosen) return;
    if (chosen.size > MOST_BYTES) {
      setProblem({
        field: "file",
        message: `${chosen.name} is ${Math.round(chosen.size / 1e6)} MB; a trial is taken in up to ${MOST_BYTES / 1e6} MB. A thousand strips are far smaller: is it the right file?`,
      });
      return;
    }
    try {
      const result = await ask(
        client.POST("/api/workspaces/{workspace_id}/import-preview", {
          ...path,
          body: { file: "" },
          bodySerializer: () => asForm({ file: chosen }),
        }),
      );
      setPreview(result);
      setMapping(guessMapping(result, chosen.name, reader));
    } catch (error) {
      refuse(error);
    }
  }

  async function takeIn(event: FormEvent) {
    event.preventDefault();
    if (!file || !mapping) return;
    setBusy(true);
    setProblem(null);
    setRows([]);
    try {
      const trial = await save(() =>
        ask(
          client.POST("/api/workspaces/{workspace_id}/import", {
            ...path,
            body: { ...mapping, season: Number(mapping.season), file: "" },
            bodySerializer: () => asForm({ ...mapping, file }),
          }),
        ),
      );
      changed();
      await navigate(`/trials/${trial.id}/verdict`);
    } catch (error) {
      refuse(error);
    } finally {
      setBusy(false);
    }
  }

  return (
    <form onSubmit={takeIn} className="grid gap-5 lg:grid-cols-[26rem_1fr]">
      <div className="space-y-3">
        <h1>Bring in a finished trial</h1>
        <div>
          <label htmlFor="file">CSV file, one row a strip</label>
          <input
            id="file"
            type="file"
            accept=".csv,.txt,text/csv"
            className="entry"
            onChange={(event) => void look(event.target.files?.[0])}
          />
          <p className="muted text-sm">
            Needs a column for the block, the treatment and the yield. Comma, semicolon or tab.
          </p>
        </div>
        {preview && mapping && (
          <ImportMapping preview={preview} mapping={mapping} onChange={setMapping} problem={problem} />
        )}
        {problem && (
          <p role="alert" className="font-medium text-error">
            {problem.message}
          </p>
        )}
        <div className="flex items-center gap-3">
          <button type="submit" className="act" disabled={!preview || busy}>
            {busy ? "Taking it in …" : "Take it in and see the verdict"}
          </button>
          <Link className="plain" to="/trials">
            Back to the shelf
          </Link>
        </div>
        <ImportPackage />
      </div>
      <ImportPreview preview={preview} mapping={mapping} problems={rows} />
    </form>
  );
}
