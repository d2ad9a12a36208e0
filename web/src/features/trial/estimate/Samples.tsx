import type { Schemas } from "../../../api/client";
import type { Stage } from "../TrialFrame";
import { VoidRecord } from "../VoidRecord";

type Props = { stage: Stage; estimates: Schemas["EstimatesOut"] };

/** Every sample as it was entered, strip by strip, with what it raises. */
export function Samples({ stage, estimates }: Props) {
  const { trial, selected } = stage;
  const strips = estimates.strips.filter(
    (strip) => strip.samples.length && (!selected || strip.strip_id === selected.id),
  );
  if (!strips.length)
    return <p className="muted">{selected ? `No sample on strip ${selected.order} yet.` : "No sample yet."}</p>;
  return (
    <>
      {!selected && <p className="muted">Choose a strip on the ribbon to see its samples alone.</p>}
      {strips.map((stripSamples) => {
        const strip = trial.strips.find((other) => other.id === stripSamples.strip_id);
        return (
          <section
            key={stripSamples.strip_id}
            aria-label={`Samples of strip ${strip?.order}`}
            className="sheet mt-3 p-2"
          >
            <h3>Strip {strip?.order}</h3>
            <ul>
              {stripSamples.samples.map((sample) => (
                <Line key={sample.id} stage={stage} sample={sample} methods={estimates.methods} />
              ))}
            </ul>
          </section>
        );
      })}
    </>
  );
}

type LineProps = { stage: Stage; sample: Schemas["YieldSampleOut"]; methods: Schemas["MethodOut"][] };

function Line({ stage, sample, methods }: LineProps) {
  const method = methods.find((item) => item.key === sample.method);
  const unit = (key: string) => {
    const entry = [...(method?.piece_fields ?? []), ...(method?.place_fields ?? [])].find((item) => item.key === key);
    return entry?.units.find(([code]) => code === sample.units[key])?.[1] ?? "";
  };
  return (
    <li className="flex flex-wrap items-center gap-x-3 border-b border-base-300 py-1">
      <span>
        {sample.by_eye ? <b>by eye</b> : sample.place !== null && `place ${sample.place}`} {method?.name.toLowerCase()}{" "}
        on {sample.area.text}
      </span>
      <span className="font-semibold">{sample.words}</span>
      <span className="muted text-sm">
        {sample.recorded_by}, {sample.recorded_at.slice(0, 10)}
      </span>
      {stage.writable && (
        <VoidRecord trialId={stage.trial.id} kind="yield-sample" record={sample} what={`the sample ${sample.words}`} />
      )}
      <details className="basis-full">
        <summary className="muted text-sm">As typed</summary>
        {sample.pieces.length > 0 && (
          <p className="text-sm">
            {sample.pieces
              .map((piece) => method?.piece_fields.flatMap((entry) => piece[entry.key] ?? []).join(" × "))
              .join("; ")}{" "}
            <span className="muted">
              (
              {method?.piece_fields
                .map((entry) => [entry.label.toLowerCase(), unit(entry.key)].join(" ").trim())
                .join(" × ")}
              )
            </span>
          </p>
        )}
        {method?.place_fields
          .filter((entry) => sample.values[entry.key])
          .map((entry) => (
            <p key={entry.key} className="text-sm">
              {entry.label}:{" "}
              {entry.choices.find(([key]) => key === sample.values[entry.key])?.[1] ?? sample.values[entry.key]}{" "}
              {unit(entry.key)}
            </p>
          ))}
      </details>
      {sample.problem && (
        <span role="alert" className="basis-full text-sm font-medium text-error">
          {sample.problem}
        </span>
      )}
      {sample.questions.map((question) => (
        <span key={question.code + question.field} className="basis-full text-sm font-medium">
          ? {question.text}
        </span>
      ))}
    </li>
  );
}
