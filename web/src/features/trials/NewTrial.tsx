import { type FormEvent, useState } from "react";
import { Link, useNavigate } from "react-router";
import { ask, client } from "../../api/client";
import { useFields, useTrialChanged } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { faultOf, useSaving } from "../../app/saving";
import { useCropChoices } from "../../ui/readerUnits";

export function NewTrial() {
  const { workspace } = useHere();
  const crops = useCropChoices();
  const navigate = useNavigate();
  const changed = useTrialChanged("");
  const { save } = useSaving();
  const [title, setTitle] = useState("");
  const [crop, setCrop] = useState(workspace.crops?.[0]?.key ?? "winter_wheat");
  const [season, setSeason] = useState(String(new Date().getFullYear() + (new Date().getMonth() > 7 ? 1 : 0)));
  const [field, setField] = useState("");
  const fields = useFields(workspace.id);
  const [problem, setProblem] = useState<{ field: string | null; message: string } | null>(null);

  async function submit(event: FormEvent) {
    event.preventDefault();
    try {
      if (!/^\d{4}$/.test(season.trim())) {
        setProblem({ field: "season", message: "The season is a year of four digits, the year of harvest." });
        return;
      }
      const trial = await save(() =>
        ask(
          client.POST("/api/workspaces/{workspace_id}/trials", {
            params: { path: { workspace_id: workspace.id } },
            body: { title, crop, season: Number(season), field_id: field || null },
          }),
        ),
      );
      changed();
      await navigate(`/trials/${trial.id}/question`);
    } catch (error) {
      setProblem(faultOf(error));
    }
  }

  return (
    <form onSubmit={submit} className="sheet max-w-lg space-y-3 p-4">
      <h1>New trial</h1>
      <div>
        <label htmlFor="title">Title</label>
        <input
          id="title"
          className="entry"
          value={title}
          aria-invalid={problem?.field === "title"}
          onChange={(event) => setTitle(event.target.value)}
        />
        <p className="muted text-sm">A few words to know it by, such as “Row width in winter wheat”.</p>
      </div>
      {workspace.farms !== null && (
        <label className="block">
          Field
          <select className="entry" value={field} onChange={(event) => setField(event.target.value)}>
            <option value="">choose one of your farms</option>
            {fields.data?.map((one) => (
              <option key={one.id} value={one.id}>
                {one.farm} · {one.name}
              </option>
            ))}
          </select>
        </label>
      )}
      <div className="grid grid-cols-2 gap-3">
        <label>
          Crop
          <select className="entry" value={crop} onChange={(event) => setCrop(event.target.value)}>
            {crops.map(([key, name]) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </select>
        </label>
        <div>
          <label htmlFor="season">Season, year of harvest</label>
          <input
            id="season"
            className="entry"
            inputMode="numeric"
            value={season}
            aria-invalid={problem?.field === "season"}
            onChange={(event) => setSeason(event.target.value)}
          />
        </div>
      </div>
      {problem && (
        <p role="alert" className="font-medium text-error">
          {problem.message}
        </p>
      )}
      <div className="flex items-center gap-3">
        <button type="submit" className="act">
          Start with the question
        </button>
        <Link className="plain" to="/trials">
          Back to the shelf
        </Link>
      </div>
    </form>
  );
}
