import { type FormEvent, useState } from "react";
import { ask, client, type Schemas, type Typed } from "../../../api/client";
import { useTrialChanged } from "../../../api/queries";
import { faultOf, useSaving } from "../../../app/saving";
import { ChoiceField, QuantityField, TextField } from "../../../ui/fields";
import { Problem } from "../../../ui/Problem";
import { blankIn } from "../../../ui/readerUnits";
import type { Stage } from "../TrialFrame";
import { VoidRecord } from "../VoidRecord";

type Estimates = Schemas["EstimatesOut"];
type Props = { stage: Stage; estimates: Estimates };

/** Grain weight: what is known of it, weighed samples, and this farm's own way of estimating the crop. */
export function Grain({ stage, estimates }: Props) {
  const { grain } = estimates;
  return (
    <>
      {grain ? (
        <section aria-label="Grain weight in use">
          <h3>{grain.mean.text}</h3>
          <p>
            {grain.low.text} to {grain.high.text}: {grain.words}. <span className="muted">{grain.factor}</span>
          </p>
        </section>
      ) : (
        <p className="muted">This method weighs what it takes, so no grain weight comes in.</p>
      )}
      <Weighed stage={stage} estimates={estimates} />
      {stage.writable && <Weigh stage={stage} />}
      <Own stage={stage} estimates={estimates} />
    </>
  );
}

function Weighed({ stage, estimates }: Props) {
  if (!estimates.grain_samples.length) return null;
  return (
    <table aria-label="Weighed samples" className="figures mt-3 max-w-4xl">
      <thead>
        <tr>
          <th>Of</th>
          <th className="num">Seeds</th>
          <th className="num">Weight</th>
          <th className="num">Moisture</th>
          <th className="num">At standard moisture</th>
          <th>By</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {estimates.grain_samples.map((sample) => (
          <tr key={sample.id}>
            <td>
              {sample.strip_id
                ? `strip ${stage.trial.strips.find((strip) => strip.id === sample.strip_id)?.order}`
                : "the trial"}
              {sample.questions.map((question) => (
                <span key={question.code} className="block text-sm font-medium">
                  ? {question.text}
                </span>
              ))}
            </td>
            <td className="num">{sample.seeds}</td>
            <td className="num">{sample.mass.shown}</td>
            <td className="num">{sample.moisture.shown ?? "–"}</td>
            <td className="num font-semibold">{sample.weight.text}</td>
            <td className="muted">{sample.recorded_by}</td>
            <td>
              {stage.writable && (
                <VoidRecord
                  trialId={stage.trial.id}
                  kind="grain-sample"
                  record={sample}
                  what={`the sample of ${sample.weight.text}`}
                />
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Weigh({ stage }: { stage: Stage }) {
  const { trial, reader } = stage;
  const changed = useTrialChanged(trial.id);
  const { save } = useSaving();
  const empty = { strip: "", seeds: "", mass: blankIn(reader, "catch"), moisture: "" };
  const [draft, setDraft] = useState(empty);
  const [id, setId] = useState(() => crypto.randomUUID());
  const [problem, setProblem] = useState<{ field: string | null; message: string } | null>(null);
  const put = (part: Partial<typeof empty>) => setDraft((now) => ({ ...now, ...part }));
  const wrong = (field: string) => (problem?.field === field ? problem.message : null);
  async function weigh(event: FormEvent) {
    event.preventDefault();
    try {
      await save(() =>
        ask(
          client.PUT("/api/trials/{trial_id}/grain-samples/{sample_id}", {
            params: { path: { trial_id: trial.id, sample_id: id } },
            body: {
              strip_id: draft.strip || null,
              seeds: draft.seeds,
              mass: draft.mass,
              moisture: { text: draft.moisture, unit: "%" },
              recorded_at: new Date().toISOString(),
            },
          }),
        ),
      );
      setId(crypto.randomUUID());
      setDraft(empty);
      setProblem(null);
      changed();
    } catch (error) {
      setProblem(faultOf(error));
    }
  }
  return (
    <form
      onSubmit={weigh}
      aria-label="Weigh a sample"
      className="sheet mt-4 grid max-w-4xl grid-cols-2 items-start gap-3 p-3 md:grid-cols-4"
    >
      <TextField
        label="Seeds counted"
        inputMode="numeric"
        value={draft.seeds}
        error={wrong("seeds")}
        onCommit={(seeds) => put({ seeds })}
      />
      <QuantityField
        label="Their weight, without the bowl"
        dimension="mass"
        reader={reader}
        value={draft.mass}
        error={wrong("mass")}
        onCommit={(mass) => put({ mass })}
      />
      <TextField
        label="Moisture, %"
        inputMode="decimal"
        value={draft.moisture}
        error={wrong("moisture")}
        onCommit={(moisture) => put({ moisture })}
      />
      <ChoiceField
        label="Taken from"
        value={draft.strip}
        options={[
          ["", "the whole trial"],
          ...trial.strips.map((strip): [string, string] => [strip.id, `strip ${strip.order}`]),
        ]}
        onCommit={(strip) => put({ strip })}
      />
      <div className="col-span-full">
        {problem && !["seeds", "mass", "moisture"].includes(problem.field ?? "") && (
          <Problem>{problem.message}</Problem>
        )}
        <button type="submit" className="act">
          Take the sample in
        </button>
      </div>
    </form>
  );
}

const OWN_FIELDS = ["places", "pieces", "stressed", "usual", "excellent", "source"];

function Own({ stage, estimates }: Props) {
  const { trial, reader } = stage;
  const { setting } = estimates;
  const changed = useTrialChanged(trial.id);
  const { save } = useSaving();
  const typed = (value: Schemas["TypedOut"]): Typed => ({ text: value.text, unit: value.unit });
  const [draft, setDraft] = useState({
    method: setting.method as string,
    places: String(setting.places),
    pieces: String(setting.pieces),
    stressed: typed(setting.stressed),
    usual: typed(setting.usual),
    excellent: typed(setting.excellent),
    source: setting.source,
  });
  const [problem, setProblem] = useState<{ field: string | null; message: string } | null>(null);
  const put = (part: Partial<typeof draft>) => setDraft((now) => ({ ...now, ...part }));
  const wrong = (field: string) => (problem?.field === field ? problem.message : null);
  async function set(body: Schemas["EstimateSettingIn"]) {
    try {
      await save(() =>
        ask(client.PUT("/api/trials/{trial_id}/estimate-setting", { params: { path: { trial_id: trial.id } }, body })),
      );
      setProblem(null);
      changed();
    } catch (error) {
      setProblem(faultOf(error));
    }
  }
  const nothing: Typed = { text: "", unit: "" };
  const weights = [
    ["stressed", "Stressed", setting.stressed],
    ["usual", "Usual", setting.usual],
    ["excellent", "Excellent", setting.excellent],
  ] as const;
  return (
    <details className="mt-4">
      <summary>
        How {trial.crop_name.toLowerCase()} is estimated in this workspace{setting.own && ": your own way"}
      </summary>
      <div className="sheet mt-2 grid max-w-4xl grid-cols-2 items-start gap-3 p-3 md:grid-cols-3">
        <ChoiceField
          label="Method"
          value={draft.method}
          options={estimates.methods.map((method) => [method.key, method.name])}
          onCommit={(method) => put({ method })}
        />
        <TextField
          label="Places a strip"
          inputMode="numeric"
          value={draft.places}
          error={wrong("places")}
          onCommit={(places) => put({ places })}
        />
        <TextField
          label="Pieces at a place"
          inputMode="numeric"
          value={draft.pieces}
          error={wrong("pieces")}
          onCommit={(pieces) => put({ pieces })}
        />
        {weights.map(([name, label, kept]) => (
          <QuantityField
            key={name}
            label={`${label} grain weight`}
            dimension="grain_mass"
            reader={reader}
            value={draft[name]}
            hint={draft[name].text ? undefined : kept.shown && `${kept.shown} unless you say otherwise`}
            error={wrong(name)}
            onCommit={(value) => put({ [name]: value })}
          />
        ))}
        <TextField
          label="Source of the weights"
          value={draft.source}
          error={wrong("source")}
          onCommit={(source) => put({ source })}
        />
        <div className="col-span-full flex gap-2">
          <button
            type="button"
            className="act"
            disabled={!stage.trial.may.includes("design")}
            onClick={() =>
              void set({
                ...draft,
                method: draft.method as Schemas["EstimateSettingIn"]["method"],
                places: Number(draft.places) || null,
                pieces: Number(draft.pieces) || null,
              })
            }
          >
            Use it in this workspace
          </button>
          {setting.own && stage.trial.may.includes("design") && (
            <button
              type="button"
              className="plain"
              onClick={() =>
                void set({
                  method: "",
                  places: null,
                  pieces: null,
                  stressed: nothing,
                  usual: nothing,
                  excellent: nothing,
                  source: "",
                })
              }
            >
              Back to the defaults
            </button>
          )}
        </div>
        {problem && !OWN_FIELDS.includes(problem.field ?? "") && <Problem>{problem.message}</Problem>}
      </div>
    </details>
  );
}
