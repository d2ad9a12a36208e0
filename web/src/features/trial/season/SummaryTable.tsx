import type { Schemas, Trial } from "../../../api/client";
import { ProfilePlot } from "../../../ui/charts/ProfilePlot";
import { writtenDay } from "../../../ui/writing";
import { Named } from "../stand/Emergence";

/** A trait by treatment: means of strips, differences to the control with their interval. */
export function SummaryTable({ trial, summary }: { trial: Trial; summary: Schemas["SummaryOut"] }) {
  return (
    <section aria-label={summary.name} className="mt-4">
      <h3>
        {summary.name}
        {summary.subject && `: ${summary.subject}`}{" "}
        <span className="muted font-normal">
          {writtenDay(summary.first)}
          {summary.last !== summary.first && ` to ${writtenDay(summary.last)}`}, {summary.values}{" "}
          {summary.judged ? "ratings" : "values"}
          {summary.judged && `, ${summary.blind === summary.values ? "all" : summary.blind} blind`}
          {summary.by_eye > 0 && `, ${summary.by_eye} at places chosen by eye`}
        </span>
      </h3>
      <Values trial={trial} values={summary.treatments} heading="Mean" />
      <p className="muted text-sm">{summary.words}</p>
      {summary.left_out.map((text) => (
        <p key={text} className="text-sm">
          {text}
        </p>
      ))}
      {summary.profile && <Profile trial={trial} profile={summary.profile} name={summary.name} />}
    </section>
  );
}

type ValuesProps = { trial: Trial; values: Schemas["TreatmentValueOut"][]; heading: string };

/** Means of treatments, with differences to the control where the comparison gives them. */
function Values({ trial, values, heading }: ValuesProps) {
  const told = values.some((treatment) => treatment.difference);
  return (
    <table className="figures max-w-3xl">
      <thead>
        <tr>
          <th>Treatment</th>
          <th className="num">{heading}</th>
          {told && <th className="num">Against the control</th>}
          {told && <th className="num">Interval</th>}
          <th className="num">Strips</th>
        </tr>
      </thead>
      <tbody>
        {values.map((treatment) => (
          <tr key={treatment.treatment_id}>
            <td>
              <Named treatment={trial.treatments.find((other) => other.id === treatment.treatment_id)} />
            </td>
            <td className="num">{treatment.mean?.text ?? "none"}</td>
            {told && <td className="num">{treatment.difference?.text}</td>}
            {told && (
              <td className="num">
                {treatment.lower && treatment.upper && `${treatment.lower.text} to ${treatment.upper.text}`}
              </td>
            )}
            <td className="num">{treatment.strips}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Every visit, and the mean level of the strips over them. */
function Profile({ trial, profile, name }: { trial: Trial; profile: Schemas["ProfileOut"]; name: string }) {
  return (
    <details className="mt-1">
      <summary className="cursor-pointer underline">Over {profile.points.length} visits</summary>
      <ProfilePlot profile={profile} treatments={trial.treatments} name={name} />
      <Values trial={trial} values={profile.level} heading="Mean level" />
      <p className="muted text-sm">{profile.words}</p>
      {profile.changed && <p>{profile.changed}</p>}
      {profile.left_out.map((text) => (
        <p key={text} className="text-sm">
          {text}
        </p>
      ))}
    </details>
  );
}
