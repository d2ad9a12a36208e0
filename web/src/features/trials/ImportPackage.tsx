import { useState } from "react";
import { useNavigate } from "react-router";
import { ask, client, Fault, type RowProblem } from "../../api/client";
import { useTrialChanged } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { faultOf, useSaving } from "../../app/saving";
import { Problem } from "../../ui/Problem";

/** A trial saved as a data package, here or elsewhere, read back whole. */
export function ImportPackage() {
  const { workspace } = useHere();
  const navigate = useNavigate();
  const changed = useTrialChanged("");
  const { save } = useSaving();
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState("");
  const [rows, setRows] = useState<RowProblem[]>([]);
  const [known, setKnown] = useState<File | null>(null);
  async function take(file: File, there: "ask" | "replace" | "beside" = "ask") {
    setKnown(null);
    setBusy(true);
    setProblem("");
    setRows([]);
    try {
      const trial = await save(() =>
        ask(
          client.POST("/api/workspaces/{workspace_id}/packages", {
            params: { path: { workspace_id: workspace.id }, query: { there } },
            body: { file: "" },
            bodySerializer: () => {
              const form = new FormData();
              form.append("file", file);
              return form;
            },
          }),
        ),
      );
      changed();
      await navigate(`/trials/${trial.id}/verdict`);
    } catch (error) {
      setProblem(faultOf(error).message);
      if (error instanceof Fault && error.code === "already_here") setKnown(file);
      setRows(error instanceof Fault ? error.problems : []);
    } finally {
      setBusy(false);
    }
  }
  return (
    <section aria-label="Data package" className="mt-6 border-t border-base-content pt-3">
      <h2>Or a data package</h2>
      <p className="muted">
        A trial saved whole on its Report page. Fields, seed lots and machines are matched by name.
      </p>
      <label className="plain mt-1 inline-block">
        {busy ? "Reading …" : "Choose the package"}
        <input
          type="file"
          className="sr-only"
          accept=".zip"
          disabled={busy}
          onChange={(event) => {
            const file = event.target.files?.[0];
            event.target.value = "";
            if (file) void take(file);
          }}
        />
      </label>
      <Problem>{problem}</Problem>
      {known && (
        <div className="mt-1 flex flex-wrap gap-2">
          <button type="button" className="plain min-h-11" onClick={() => void take(known, "replace")}>
            Replace it
          </button>
          <button type="button" className="plain min-h-11" onClick={() => void take(known, "beside")}>
            Keep both
          </button>
          <button
            type="button"
            className="plain min-h-11"
            onClick={() => {
              setKnown(null);
              setProblem("");
            }}
          >
            Leave it
          </button>
        </div>
      )}
      <ul>
        {rows.map((row) => (
          <li key={`${row.field} ${row.row}`}>{row.message}</li>
        ))}
      </ul>
    </section>
  );
}
