import { useState } from "react";
import { ask, client, type Schemas } from "../../../api/client";
import { useTrialChanged } from "../../../api/queries";
import { faultOf, useSaving } from "../../../app/saving";
import { QuantityField, TextField } from "../../../ui/fields";
import { Flag } from "../../../ui/marks";
import { Problem } from "../../../ui/Problem";
import { blankIn } from "../../../ui/readerUnits";
import { Worked } from "../../../ui/working";
import { KeptForm } from "../seed/KeptForm";
import type { Stage } from "../TrialFrame";
import { Named } from "./Emergence";

type Analysis = Schemas["StandAnalysisOut"];
type Props = { stage: Stage; analysis: Analysis; hungry: boolean; setHungry: (hungry: boolean) => void };

/** Keep, thicken, replant or rotate: what each costs and brings, by which threshold. */
export function Decide({ stage, analysis, hungry, setHungry }: Props) {
  const perennial = analysis.thresholds.some((threshold) => threshold.key === "old_thin");
  return (
    <>
      {perennial ? (
        <Forage stage={stage} analysis={analysis} hungry={hungry} setHungry={setHungry} />
      ) : (
        <Annual stage={stage} analysis={analysis} />
      )}
      <Thresholds stage={stage} thresholds={analysis.thresholds} />
      {analysis.bridges.length > 0 && (
        <section aria-label="What may be sown by date" className="mt-4">
          <h3>What may be sown into a thin stand, by date</h3>
          <table aria-label="What may be sown" className="figures max-w-3xl">
            <tbody>
              {analysis.bridges.map((bridge) => (
                <tr key={bridge.name} className={bridge.open ? "font-semibold" : ""}>
                  <td className="whitespace-nowrap">
                    {bridge.window}
                    {bridge.open && ", now"}
                  </td>
                  <td>{bridge.name}</td>
                  <td>
                    {bridge.why}. {bridge.caution}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="muted text-sm">Common practice, no source; soil, rotation and local advice decide.</p>
        </section>
      )}
    </>
  );
}

function Annual({ stage, analysis }: { stage: Stage; analysis: Analysis }) {
  const { trial } = stage;
  return (
    <>
      {analysis.decisions.length ? (
        <table aria-label="Keep or replant by treatment" className="figures">
          <thead>
            <tr>
              <th>Treatment</th>
              <th className="num">Stand</th>
              <th>Answer</th>
              <th className="num">This stand makes</th>
              <th className="num">Sown again</th>
              <th className="num">Keep less replant</th>
              <th className="num">Equal at</th>
            </tr>
          </thead>
          <tbody>
            {analysis.decisions.map((decision) => (
              <tr key={decision.treatment_id}>
                <td className="whitespace-nowrap">
                  <Named treatment={trial.treatments.find((other) => other.id === decision.treatment_id)} />
                </td>
                <td className="num">
                  {decision.stand.text}
                  {decision.half && ` ± ${decision.half.text}`}
                </td>
                <td>
                  <span className="font-semibold">{decision.words}</span>
                  {decision.line && <span className="muted block text-sm">{decision.line}</span>}
                </td>
                <td className="num">{decision.keep_yield}</td>
                <td className="num">{decision.replant_yield}</td>
                <td className="num">
                  {decision.money && decision.working && (
                    <Worked working={decision.working}>{decision.money.text}</Worked>
                  )}
                  {decision.lower && decision.upper && (
                    <span className="muted block text-sm">
                      {decision.lower.text} to {decision.upper.text}
                    </span>
                  )}
                </td>
                <td className="num">{decision.equal_stand?.text}</td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : (
        <p className="muted">{analysis.decision_problem?.text ?? "Count the stand first; the answer rests on it."}</p>
      )}
      <h3 className="mb-1 mt-4">What sowing again would cost</h3>
      <KeptForm
        stage={stage}
        name="keep_or_replant"
        kept={Object.keys(analysis.kept).length ? analysis.kept : undefined}
        problem={
          analysis.decision_problem && {
            field: analysis.decision_problem.field,
            message: analysis.decision_problem.text,
          }
        }
      />
    </>
  );
}

function Forage({ stage, analysis, hungry, setHungry }: Props) {
  const { trial } = stage;
  return (
    <section aria-label="The stand by both schools">
      <label className="flex items-center gap-2">
        <input type="checkbox" checked={hungry} onChange={(event) => setHungry(event.target.checked)} />
        The farm is short of feed this year
      </label>
      {analysis.age_years !== null && <p className="muted">The stand is {analysis.age_years.toFixed(1)} years old.</p>}
      {!analysis.forage.length && <p className="muted">Count the stand first; dig plants for shoots and crowns.</p>}
      {analysis.forage.map((forage) => (
        <div key={forage.treatment_id} className="sheet mt-2 p-2">
          <h3 className="flex items-center gap-2">
            {forage.action !== "keep" && <Flag className="h-5 w-5" />}
            <Named treatment={trial.treatments.find((other) => other.id === forage.treatment_id)} />: {forage.words}
          </h3>
          <dl className="grid grid-cols-[7rem_1fr] gap-x-3">
            {forage.schools.map((school) => (
              <div key={school.name} className="contents">
                <dt className="font-semibold">{school.name}</dt>
                <dd>
                  {school.words} <span className="muted text-sm">({school.source})</span>
                </dd>
              </div>
            ))}
          </dl>
        </div>
      ))}
    </section>
  );
}

function Thresholds({ stage, thresholds }: { stage: Stage; thresholds: Analysis["thresholds"] }) {
  const [open, setOpen] = useState("");
  if (!thresholds.length) return null;
  return (
    <section aria-label="Thresholds" className="mt-4">
      <h3>Thresholds used for {stage.trial.crop_name.toLowerCase()}</h3>
      <table className="figures max-w-3xl">
        <thead>
          <tr>
            <th>Line</th>
            <th className="num">Stand</th>
            <th>Source</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {thresholds.map((threshold) => (
            <tr key={threshold.key}>
              <td>{threshold.label}</td>
              <td className="num">{threshold.value.shown}</td>
              <td className={threshold.own ? "font-medium" : "muted"}>{threshold.source}</td>
              <td>
                {stage.trial.may.includes("design") && (
                  <button
                    type="button"
                    className="underline"
                    onClick={() => setOpen(open === threshold.key ? "" : threshold.key)}
                  >
                    Change<span className="sr-only"> {threshold.label}</span>
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {thresholds
        .filter((threshold) => threshold.key === open)
        .map((threshold) => (
          <OwnLine key={threshold.key} stage={stage} line={threshold} close={() => setOpen("")} />
        ))}
    </section>
  );
}

function OwnLine({ stage, line, close }: { stage: Stage; line: Analysis["thresholds"][number]; close: () => void }) {
  const { trial, reader } = stage;
  const changed = useTrialChanged(trial.id);
  const { save } = useSaving();
  const [value, setValue] = useState(blankIn(reader, "plants"));
  const [source, setSource] = useState("");
  const [problem, setProblem] = useState("");
  async function put(text: string) {
    try {
      await save(() =>
        ask(
          client.PUT("/api/workspaces/{workspace_id}/stand-lines/{crop}/{key}", {
            params: { path: { workspace_id: trial.workspace_id, crop: trial.crop, key: line.key } },
            body: { value: { text, unit: value.unit }, source },
          }),
        ),
      );
      changed();
      close();
    } catch (error) {
      setProblem(faultOf(error).message);
    }
  }
  return (
    <div className="sheet mt-2 grid max-w-3xl grid-cols-2 items-start gap-3 p-3 md:grid-cols-3">
      <QuantityField label={line.label} dimension="plant_density" reader={reader} value={value} onCommit={setValue} />
      <TextField label="Source" value={source} onCommit={setSource} />
      <div className="col-span-full flex gap-2">
        <button type="button" className="act" onClick={() => void put(value.text)}>
          Use it in this workspace
        </button>
        {line.own && (
          <button type="button" className="plain" onClick={() => void put("")}>
            Back to the default
          </button>
        )}
      </div>
      <Problem>{problem}</Problem>
    </div>
  );
}
