import { useSeed } from "../../../api/queries";
import { Sheets, useSheet } from "../../../ui/Sheets";
import { Waiting } from "../../../ui/Waiting";
import { Caution, Columns } from "../Columns";
import { type Stage, useStage } from "../TrialFrame";
import { Calibrations } from "./Calibrations";
import { Fertiliser } from "./Fertiliser";
import { Rates } from "./Rates";
import { RowsAndWheels } from "./RowsAndWheels";
import { Sown } from "./Sown";

const SHEETS = [
  ["rates", "Rates and stand"],
  ["lots", "Lots and mixtures"],
  ["calibration", "Calibration"],
  ["rows", "Rows and wheels"],
  ["fertiliser", "Fertiliser with the seed"],
] as const;

const WHY: Record<(typeof SHEETS)[number][0], string[]> = {
  rates: [
    "Sow for the plants wanted. Between seed and stand lie germination, emergence and survival; each divides once. If the emergence you expect is of seed sown, germination is in it already.",
    "Seeds per length of row are what one can check behind the drill: rate times row spacing. Double the width at the same seeds per area, and twice as many lie along each row.",
  ],
  lots: [
    "Two lots of one variety differ by a third in weight, and coated seed is partly clay. The tag says what goes through the drill and how much of it can grow.",
    "A lot may be given to some strips only: primed against dry seed, or a companion in the wide rows. A mixture shares the rate; a companion has its own.",
  ],
  calibration: [
    "The same setting has let through half as much again for another lot of the same crop. Each lot is caught anew, in the field it is for.",
    "Several catches tell the drill's scatter from its setting. The setting that would meet the rate is proportional from one setting, and read off a line from two.",
  ],
  rows: [
    "Narrow rows close sooner; wide rows let wheels, hoes and companions through. What later wheels run over belongs into the comparison.",
    "Put it into the costs only if the harvested swath misses the wheel tracks: if it does not, the loss is in the yield already.",
  ],
  fertiliser: [
    "The same rate per area lies thicker along wider rows. Against a spacing you know, this is a warning of more or less, never a safe limit.",
  ],
};

/** Everything about the seed before the drill is filled. */
export function Seed() {
  const stage = useStage();
  const seed = useSeed(stage.trial.id);
  const [sheet, go] = useSheet(SHEETS);
  if (!seed.data) return <Waiting query={seed} />;
  const treated = seed.data.lots.some((lot) => lot.treated);
  return (
    <Columns
      why={
        <>
          {WHY[sheet].map((text) => (
            <p key={text}>{text}</p>
          ))}
          <Caution>
            {treated ? "This trial sows treated seed" : "Treated seed"}: gloves and no dust; never feed, food or oil;
            none left on the ground. The product's label and local rules decide.
          </Caution>
          {sheet === "calibration" && (
            <Caution>
              Stop the engine and wait for parts to stand still before reaching under openers, discs or shutters.
            </Caution>
          )}
        </>
      }
    >
      <Answer {...stage} seed={seed.data} />
      <Sheets label="Sheets of the seed" sheets={SHEETS} sheet={sheet} go={go}>
        {sheet === "rates" && <Rates stage={stage} seed={seed.data} />}
        {sheet === "lots" && <Sown stage={stage} seed={seed.data} />}
        {sheet === "calibration" && <Calibrations stage={stage} seed={seed.data} />}
        {sheet === "rows" && <RowsAndWheels stage={stage} seed={seed.data} />}
        {sheet === "fertiliser" && <Fertiliser stage={stage} seed={seed.data} />}
      </Sheets>
    </Columns>
  );
}

/** What is ready and what is not: the answer of this stage. */
function Answer({ trial, seed }: Stage & { seed: NonNullable<ReturnType<typeof useSeed>["data"]> }) {
  const asked = seed.lots.flatMap((lot) => lot.questions.filter((question) => question.code !== "treated"));
  const rated = seed.treatments.filter((treatment) => treatment.seeds).length;
  const note = trial.stages.find((stage) => stage.key === "seed")?.note;
  return (
    <section aria-label="The seed" className="border-l-4 border-base-content pl-3">
      <h2>
        {seed.lots.length
          ? `${seed.lots.map((lot) => lot.title).join(", ")}`
          : "No seed lot chosen: weights and stands rest on what was typed"}
      </h2>
      <p>
        {rated === trial.treatments.length && rated > 0 ? "Every treatment has a rate. " : `${note}. `}
        {asked.length > 0 && <b>{asked.length === 1 ? asked[0]?.text : `${asked.length} questions on the tags.`}</b>}
      </p>
    </section>
  );
}
