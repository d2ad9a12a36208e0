import { Link } from "react-router";
import { useEstimates } from "../../../api/queries";
import { Sheets, useSheet } from "../../../ui/Sheets";
import { Waiting } from "../../../ui/Waiting";
import { Caution, Columns } from "../Columns";
import { type Stage, useStage } from "../TrialFrame";
import { Drawn } from "./Drawn";
import { Grain } from "./Grain";
import { Learned } from "./Learned";
import { Mixture } from "./Mixture";
import { Reckon } from "./Reckon";
import { Samples } from "./Samples";
import { StripEstimates } from "./StripEstimates";

const SHEETS = [
  ["strips", "Estimates"],
  ["samples", "Samples"],
  ["places", "Which plants"],
  ["grain", "Grain weight"],
  ["learned", "Against harvest"],
  ["reckon", "Reckon one"],
] as const;

const WHY: Record<(typeof SHEETS)[number][0], string[]> = {
  strips: [
    "Each piece gives its own product, rows times kernels of one ear, before anything is averaged: where long ears also have more rows, multiplying two means is too low.",
    "The interval carries every part: how places differ, how pieces differ, and how little is known of the grain weight. Its largest part says what to do next.",
  ],
  samples: [
    "Questions ask; nothing is dropped or changed for being odd. A sample voided keeps its reason and stays readable.",
  ],
  places: [
    "The software draws the places and the plants at them: the 7th ear from the peg, not the one that catches the eye. Count the area first; the pieces then follow from the count.",
    "Whoever chooses takes the big ear of the lonely plant. Such samples are taken in and marked, and their effect is shown where strips were sampled both ways.",
  ],
  grain: [
    "Before harvest the weight of a grain is a range, and it moves the answer by 40 %. Earlier seasons of the farm narrow it, a counted and weighed sample of ripe grain settles it.",
  ],
  learned: [
    "Once the combine has been, each strip tells how far the estimate was off, as it stood before the first load. Strips of one trial share the weight that was guessed and the person who counted, so the bias is judged over trials.",
  ],
  reckon: ["The calculators of the bench for this crop: one place each, with the interval and what narrows it."],
};

/** The Estimate stage: what it will make, how sure, and what the farm has learned from earlier estimates. */
export function Estimate() {
  const stage = useStage();
  const [sheet, go] = useSheet(SHEETS);
  const estimates = useEstimates(stage.trial.id);
  if (!estimates.data) return <Waiting query={estimates} />;
  const { data } = estimates;
  return (
    <Columns
      why={
        <>
          {WHY[sheet].map((text) => (
            <p key={text}>{text}</p>
          ))}
          <Caution>
            An estimate from samples is no verdict on treatments. It plans storage and sale; the combine decides the
            trial.
          </Caution>
          <Caution>Respect the re-entry interval on the label of anything sprayed before walking in.</Caution>
        </>
      }
    >
      <Answer stage={stage} answer={data.answer} by={data.looked_on} byEye={data.by_eye} />
      <Sheets label="Sheets of the estimate" sheets={SHEETS} sheet={sheet} go={go}>
        {sheet === "strips" && (
          <>
            <StripEstimates stage={stage} estimates={data} />
            <Mixture stage={stage} estimates={data} />
          </>
        )}
        {sheet === "samples" && <Samples stage={stage} estimates={data} />}
        {sheet === "places" && <Drawn key={data.plan?.id} stage={stage} estimates={data} />}
        {sheet === "grain" && <Grain stage={stage} estimates={data} />}
        {sheet === "learned" && <Learned stage={stage} />}
        {sheet === "reckon" && <Reckon stage={stage} estimates={data} />}
      </Sheets>
    </Columns>
  );
}

type AnswerProps = { stage: Stage; answer: string; by: string | null; byEye: number };

/** The estimate in a sentence, marked for what it is. */
function Answer({ stage, answer, by, byEye }: AnswerProps) {
  return (
    <section
      aria-label="The estimate so far"
      className="flex flex-wrap items-start justify-between gap-3 border-l-4 border-dashed border-base-content pl-3"
    >
      <div>
        <h2>{answer}</h2>
        <p className="muted">
          Estimate, not harvest{by && `; samples of ${by}`}
          {byEye > 0 && `; ${byEye} taken by eye`}
        </p>
      </div>
      {stage.writable && stage.trial.strips.length > 0 && (
        <Link className="plain no-print" to={`/trials/${stage.trial.id}/fieldbook?task=yield`}>
          Sample in the field book
        </Link>
      )}
    </section>
  );
}
