import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { writtenDay } from "../../../ui/writing";
import { JoinedDays } from "../JoinedDays";
import type { Stage } from "../TrialFrame";
import { SummaryTable } from "./SummaryTable";

type Props = { stage: Stage; scouting: Schemas["ScoutingOut"] };

/** What eyes said, and whether the counts agree. */
export function Judged({ stage, scouting }: Props) {
  const { trial, writable, selected } = stage;
  const summaries = scouting.summaries.filter((summary) => summary.judged);
  const choices = scouting.choices ?? []; // none in an answer kept on the device from before there were any
  return (
    <>
      {writable && trial.strips.length > 0 && (
        <Link
          className="act inline-block"
          to={`/trials/${trial.id}/fieldbook?task=rate${selected ? `&strip=${selected.order}` : ""}`}
        >
          Judge blind in the field book
        </Link>
      )}
      {scouting.agreements.map((agreement) => (
        <section
          key={agreement.rating + agreement.measured}
          aria-label={`${agreement.rating} against ${agreement.measured}`}
          className="sheet mt-3 p-3"
        >
          <h3>
            {agreement.rating} judged{agreement.blind ? " blind" : ""} against {agreement.measured.toLowerCase()}
          </h3>
          <ul>
            {agreement.both.map((both) => (
              <li key={both.treatment_id}>
                <span className={both.agree ? "" : "font-semibold"}>{both.words}</span>
                <span className="muted">
                  {" "}
                  eye {both.eye_text}, count {both.count_text}
                </span>
              </li>
            ))}
          </ul>
          <p className="muted text-sm">
            {agreement.words} Judged {writtenDay(agreement.rated_on)}, counted {writtenDay(agreement.measured_on)}.
          </p>
        </section>
      ))}
      {choices.map((choice) => (
        <Chosen key={choice.trait} trial={trial} choice={choice} />
      ))}
      {!summaries.length && !choices.length && (
        <p className="muted mt-2">Nothing judged yet. One touch a strip, from 1 to 9.</p>
      )}
      {summaries.map((summary) => (
        <SummaryTable key={summary.trait} trial={trial} summary={summary} />
      ))}
      {summaries.length > 0 && <JoinedDays trialId={trial.id} writable={writable} task="rating" leftOut={[]} />}
    </>
  );
}

/** Words that were chosen, counted by treatment: words have no mean. */
function Chosen({ trial, choice }: { trial: Stage["trial"]; choice: Schemas["ChoiceSummaryOut"] }) {
  const letters = new Map(trial.treatments.map((treatment) => [treatment.id, treatment.letter]));
  return (
    <section aria-label={choice.name} className="sheet mt-3 p-3">
      <h3>
        {choice.name}, {writtenDay(choice.on)}
      </h3>
      <table className="figures">
        <thead>
          <tr>
            <th>Treatment</th>
            {choice.choices.map((word) => (
              <th key={word} className="num">
                {word}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {choice.treatments.map((row) => (
            <tr key={row.treatment_id}>
              <td>{letters.get(row.treatment_id)}</td>
              {row.strips.map((strips, place) => (
                <td key={choice.choices[place]} className="num">
                  {strips}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="muted text-sm">Strips; words are counted and not averaged.</p>
    </section>
  );
}
