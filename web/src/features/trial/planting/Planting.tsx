import { usePlanting } from "../../../api/queries";
import { TextField } from "../../../ui/fields";
import { Flag } from "../../../ui/marks";
import { Sheets, useSheet } from "../../../ui/Sheets";
import { Waiting } from "../../../ui/Waiting";
import { Caution, Columns } from "../Columns";
import { type Stage, useStage } from "../TrialFrame";
import { Bed } from "./Bed";
import { Before } from "./Before";
import { Depths } from "./Depths";
import { Openers } from "./Openers";
import { Otherwise } from "./Otherwise";
import { Passes } from "./Passes";
import { Records } from "./Records";

const SHEETS = [
  ["sown", "Sown"],
  ["depth", "Depth"],
  ["openers", "Rows of the machine"],
  ["otherwise", "Went otherwise"],
  ["bed", "Seedbed and depth to choose"],
  ["passes", "Passes over the ground"],
  ["before", "Before planting"],
] as const;

const WHY: Record<(typeof SHEETS)[number][0], string[]> = {
  sown: [
    "Setting, rate and speed are remembered best on the day. What was really sown stands beside what was wanted; both are kept.",
    "In the field, the field book takes one strip with one touch, with or without a signal.",
  ],
  depth: [
    "Dig to the seed and measure up to the surface, in many places and under several openers. The mean says whether the drill is set right, the spread whether the bed is even.",
  ],
  openers: [
    "Each row is held against the others inside the same strips. The chance of being luck is that of all rows together: with twelve openers one stands apart by luck now and then.",
  ],
  otherwise: [
    "What really happened counts, not the plan. A strip sown with another treatment is analysed as what it got, and once more as planned; a lost strip is left out of the model, its block stays in.",
    "A reason is asked because it decides whether the loss had to do with the treatment.",
  ],
  bed: [
    "Low pH, loose soil and wrong depth cause most failed stands of small seeds. What was not measured is listed, never taken as good.",
    "Two schools of depth: into moisture, or always the same. Both stand side by side with what each risks; the choice is yours.",
  ],
  before: [
    "Covariance takes out what the ground gave each strip before anything was done. It needs an amount that no treatment can have changed, so the day it was measured decides.",
    "The stand is never such an amount: it may explain a difference, under Verdict, but not adjust it.",
  ],
  passes: [
    "A tillage treatment is made of passes with dates. Those after planting count too: hoeing, harrowing, ridging, on all strips or on some.",
  ],
};

/** Planting day and what led to it. */
export function Planting() {
  const stage = useStage();
  const planting = usePlanting(stage.trial.id);
  const [sheet, go] = useSheet(SHEETS);
  if (!planting.data) return <Waiting query={planting} />;
  const shared = { stage, planting: planting.data };
  return (
    <Columns
      why={
        <>
          {WHY[sheet].map((text) => (
            <p key={text}>{text}</p>
          ))}
          <Caution>
            Stay clear of the drill while it turns or folds; stop the engine before clearing a blocked coulter. Look up
            for power lines.
          </Caution>
          {sheet === "depth" && <Caution>Utilities are located before anybody digs or probes.</Caution>}
        </>
      }
    >
      <Answer {...stage} uncalibrated={planting.data.uncalibrated} />
      <Sheets label="Sheets of the planting" sheets={SHEETS} sheet={sheet} go={go}>
        {sheet === "sown" && <Records {...shared} />}
        {sheet === "depth" && <Depths {...shared} />}
        {sheet === "openers" && <Openers trialId={stage.trial.id} />}
        {sheet === "otherwise" && <Otherwise {...shared} />}
        {sheet === "bed" && <Bed {...shared} />}
        {sheet === "passes" && <Passes {...shared} />}
        {sheet === "before" && <Before stage={stage} />}
      </Sheets>
    </Columns>
  );
}

function Answer({ trial, edit, problems, uncalibrated }: Stage & { uncalibrated: string[] }) {
  const standing = trial.strips.filter((strip) => !strip.lost);
  const sown = standing.filter((strip) => strip.sown).length;
  const odd = trial.strips.filter(
    (strip) => strip.lost || strip.received_id !== strip.treatment_id || strip.deviations.length,
  );
  return (
    <section
      aria-label="What happened at planting"
      className="flex flex-wrap gap-x-6 border-l-4 border-base-content pl-3"
    >
      <div>
        <h2>
          {!trial.planted_on
            ? "Not sown yet"
            : sown > 0 && sown < standing.length
              ? `${sown} of ${standing.length} strips sown so far`
              : odd.length
                ? `Sown, ${odd.length} of ${trial.strips.length} strips not as planned`
                : sown
                  ? "Sown as planned, as far as is recorded"
                  : "Sown; how is not recorded"}
        </h2>
        <p className="muted">
          {sown
            ? `${sown} of ${standing.length} strips have a record of how they were sown.`
            : "No strip has a record yet."}
        </p>
        {!trial.planted_on &&
          uncalibrated.map((text) => (
            <p key={text} className="flex items-center gap-2 font-medium">
              <Flag className="h-5 w-5" /> {text}
            </p>
          ))}
      </div>
      <div className="max-w-52">
        <TextField
          label="Day of sowing"
          type="date"
          value={trial.planted_on ?? ""}
          disabled={!trial.may.includes("design")}
          error={problems.planted_on}
          onCommit={(day) => void edit({ planted_on: day || null }, "day of sowing")}
        />
      </div>
    </section>
  );
}
