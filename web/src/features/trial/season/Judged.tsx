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
      {!summaries.length && <p className="muted mt-2">Nothing judged yet. One touch a strip, from 1 to 9.</p>}
      {summaries.map((summary) => (
        <SummaryTable key={summary.trait} trial={trial} summary={summary} />
      ))}
      {summaries.length > 0 && <JoinedDays trialId={trial.id} writable={writable} task="rating" leftOut={[]} />}
    </>
  );
}
