import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { writtenDay } from "../../../ui/writing";
import type { Stage } from "../TrialFrame";
import { SummaryTable } from "./SummaryTable";

type Props = { stage: Stage; scouting: Schemas["ScoutingOut"] };

/** What eyes said, and whether the counts agree. */
export function Judged({ stage, scouting }: Props) {
  const { trial, writable, selected } = stage;
  const summaries = scouting.summaries.filter((one) => one.judged);
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
      {scouting.agreements.map((one) => (
        <section
          key={one.rating + one.measured}
          aria-label={`${one.rating} against ${one.measured}`}
          className="sheet mt-3 p-3"
        >
          <h3>
            {one.rating} judged{one.blind ? " blind" : ""} against {one.measured.toLowerCase()}
          </h3>
          <ul>
            {one.both.map((both) => (
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
            {one.words} Judged {writtenDay(one.rated_on)}, counted {writtenDay(one.measured_on)}.
          </p>
        </section>
      ))}
      {!summaries.length && <p className="muted mt-2">Nothing judged yet. One touch a strip, from 1 to 9.</p>}
      {summaries.map((one) => (
        <SummaryTable key={one.trait} trial={trial} summary={one} />
      ))}
    </>
  );
}
