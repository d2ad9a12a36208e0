import { useState } from "react";
import { useDesign } from "../../../api/designs";
import { useVerdict } from "../../../api/queries";
import { Sheets, useSheet } from "../../../ui/Sheets";
import { Caution, Columns } from "../Columns";
import { Confounded } from "../Confounded";
import { type Stage, useStage } from "../TrialFrame";
import { DrawForm } from "./DrawForm";
import { FieldMap } from "./FieldMap";
import { Files } from "./Files";
import { HonestMargin, useMargin } from "./HonestMargin";
import { PassCard, type PassChoice } from "./PassCard";
import { ProtocolPanel } from "./ProtocolPanel";
import { Rehearsal } from "./Rehearsal";
import { StripTable } from "./StripTable";

const SHEETS = [
  ["strips", "Map and strips"],
  ["margin", "Honest margin"],
  ["rehearsal", "Rehearsal"],
  ["passes", "Pass card"],
  ["files", "Files"],
  ["protocol", "Protocol"],
] as const;

/** What reckons with prices is for those who see money. */
const OF_MONEY: string[] = ["margin", "rehearsal"];

export function Layout() {
  const stage = useStage();
  const sheets = SHEETS.filter(([key]) => !OF_MONEY.includes(key) || stage.trial.may.includes("money"));
  const [sheet, go] = useSheet(sheets);
  const [choice, choose] = useState<PassChoice>({ driving: "as_laid", reserve: "10" });
  return (
    <Columns why={<Why {...stage} />}>
      <Answer stage={stage} judged={sheet !== "margin"} />
      <Sheets label="Sheets of the layout" sheets={sheets} sheet={sheet} go={go}>
        {sheet === "strips" && <Strips stage={stage} />}
        {sheet === "margin" && <HonestMargin stage={stage} />}
        {sheet === "rehearsal" && <Rehearsal stage={stage} />}
        {sheet === "passes" && <PassCard stage={stage} choice={choice} choose={choose} />}
        {sheet === "files" && <Files stage={stage} choice={choice} />}
        {sheet === "protocol" && <ProtocolPanel stage={stage} />}
      </Sheets>
    </Columns>
  );
}

/** What stands drawn, and whether it can answer the question: the answer of this stage. */
function Answer({ stage: { trial }, judged }: { stage: Stage; judged: boolean }) {
  const margin = useMargin(trial, { cv: "", cv_main: "", smith_b: "" });
  const design = useDesign(trial.design);
  if (!trial.strips.length) {
    return (
      <p className="border-l-4 border-base-content pl-3">
        Nothing drawn yet.{" "}
        {trial.treatments.length < 2
          ? "Settle at least two treatments first."
          : trial.layout.suggests || "Choose a design, and say how many blocks."}
      </p>
    );
  }
  const first = trial.strips[0];
  return (
    <section aria-label="The layout" className="border-l-4 border-base-content pl-3">
      <h2>
        {trial.design_name}: {design.replicated && trial.blocks > 1 ? `${trial.blocks} blocks, ` : ""}
        {trial.strips.length} strips
        {first?.width && first.length ? ` of ${first.width.text}, the first ${first.length.text} long` : ""}
      </h2>
      {judged && margin.data && design.replicated && <p className="text-lg">{margin.data.sentence}</p>}
      <p className="muted">
        {trial.seed !== null
          ? `Drawn from seed ${trial.seed}: the same seed gives the same order for ever. `
          : "Taken in from a file; the order is the file's. "}
        {trial.protocol ? "The protocol is frozen." : "The protocol is not frozen yet."}
      </p>
    </section>
  );
}

function Strips({ stage }: { stage: Stage }) {
  const { trial, writable } = stage;
  const verdict = useVerdict(trial.id);
  const open = writable && trial.layout_bound.open;
  return (
    <>
      {trial.layout.gradient_wrong && <Caution>{trial.layout.gradient}</Caution>}
      <FieldMap stage={stage} />
      {trial.strips.length > 0 && <StripTable {...stage} />}
      <Confounded found={verdict.data?.confounded ?? []} belongings={trial.belongings} />
      {open ? (
        <DrawForm key={trial.layout.draws.length} stage={stage} />
      ) : (
        <p className="caution mt-3">
          {trial.layout_bound.open ? "You look on here." : `The layout is fixed now: ${trial.layout_bound.reason} `}
          {!trial.layout_bound.open && "A new draw would take the ground from under them."}
        </p>
      )}
    </>
  );
}

function Why({ trial }: Stage) {
  const design = useDesign(trial.design);
  return (
    <>
      {trial.layout.record.map((said) => (
        <p key={said}>{said}</p>
      ))}
      {trial.layout.heading && <p>Driving direction {trial.layout.heading}.</p>}
      {trial.layout.gradient && !trial.layout.gradient_wrong && <p>{trial.layout.gradient}</p>}
      {trial.layout.remarks.map((said) => (
        <Caution key={said}>{said}</Caution>
      ))}
      {trial.layout.suggests && design.parts.length === 0 && <p>{trial.layout.suggests}</p>}
      <p>
        A block is a stretch of ground as even as can be had, holding every treatment. What the ground does to a whole
        block then falls out of every comparison. Blocks lie across the slope, strips along it.
      </p>
      {!design.drawn && (
        <Caution>
          Alternating is easy to drive. Its price: a drift across the field leans on the comparison, and no probability
          knows of it. The rehearsal shows by how much.
        </Caution>
      )}
      {!design.replicated && (
        <Caution>
          With one strip a treatment, ground and treatment cannot be told apart. It is a look, and stays one.
        </Caution>
      )}
      <Caution>
        Keep strips out from under power lines and off headland turns where machines meet; have utilities located before
        stakes are driven.
      </Caution>
    </>
  );
}
