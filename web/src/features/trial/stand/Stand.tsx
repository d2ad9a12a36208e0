import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client } from "../../../api/client";
import { useScouting, useStand, useStandAnalysis } from "../../../api/queries";
import { Sheets, useSheet } from "../../../ui/Sheets";
import { Waiting } from "../../../ui/Waiting";
import { Caution, Columns } from "../Columns";
import { type Stage, useStage } from "../TrialFrame";
import { Counts } from "./Counts";
import { Crowns } from "./Crowns";
import { Decide } from "./Decide";
import { Emergence } from "./Emergence";
import { Places } from "./Places";
import { Spacing } from "./Spacing";

const SHEETS = [
  ["counts", "Counts"],
  ["places", "Places to count"],
  ["emergence", "Emergence and survival"],
  ["spacing", "Spacing along the row"],
  ["crowns", "Stage, crowns and roots"],
  ["decide", "Keep or replant"],
] as const;

const WHY: Record<(typeof SHEETS)[number][0], string[]> = {
  counts: [
    "Go where the book says, not where the stand looks typical: the eye picks good spots. The interval covers how much the counts on one strip vary; more counts make it narrower, looking harder does not.",
    "Percent of seed sown is plants over seeds sown on the same area: germination, drilling and losses together. Percent of live seed leaves germination out.",
    "Plants per length of row equal plants per area at one row width only; all methods stand here in one unit.",
  ],
  places: [
    "Each strip is cut into as many stretches as counts are planned, and one place is drawn in each. Headland, edge rows and wheel rows stay out. The same plan gives the same places for ever.",
    "A place chosen by eye is taken in and marked: it is not wrong, but it is not a drawn one either.",
  ],
  emergence: [
    "A first count before the stand is complete tells how fast it came up; the same strips counted later tell what was lost. Different places are counted each time, so a dip before the top is levelled out.",
  ],
  spacing: [
    "A double is a spacing of at most half the spacing wanted, a skip one of more than one and a half. Precision looks at the singles only: how well the meter placed what it placed.",
  ],
  crowns: [
    "Each crop is staged by its own counting rule. In a perennial stand the plants that count are those with a firm white crown; shoots tell this year's feed, plants how long it will last.",
  ],
  decide: [
    "Neighbours make up for much of what is missing, so a thin stand often beats sowing again late. Both are reckoned in money, with the interval, and the threshold used is named and yours to change.",
    "Thickening an annual crop between its rows seldom pays: plants that come up weeks later stay small under their neighbours. A young perennial stand can be thickened with a grass.",
  ],
};

/** The Stand stage: what came up, how even, how sure, and what to do about it. */
export function Stand() {
  const stage = useStage();
  const [sheet, go] = useSheet(SHEETS);
  const [visit, setVisit] = useState<number | null>(null);
  const latest = useStand(stage.trial.id);
  const earlier = useVisit(stage.trial.id, visit);
  const stand = visit === null ? latest : earlier;
  const scouting = useScouting(stage.trial.id);
  const [hungry, setHungry] = useState(false);
  const analysis = useStandAnalysis(stage.trial.id, hungry);
  if (!latest.data || !stand.data) return <Waiting query={latest} />;
  return (
    <Columns
      why={
        <>
          {WHY[sheet].map((text) => (
            <p key={text}>{text}</p>
          ))}
          <Caution>Mind overhead lines and the re-entry time on the label of anything sprayed.</Caution>
          {sheet === "crowns" && <Caution>Utilities are located before anybody digs or probes.</Caution>}
          {sheet === "decide" && analysis.data?.cautions.map((text) => <Caution key={text}>{text}</Caution>)}
        </>
      }
    >
      <Answer stage={stage} verdict={analysis.data?.verdict ?? null} visits={latest.data.visits.length} />
      <Sheets label="Sheets of the stand" sheets={SHEETS} sheet={sheet} go={go}>
        {sheet === "counts" && <Counts stage={stage} stand={stand.data} visit={visit} setVisit={setVisit} />}
        {sheet === "places" && <Places stage={stage} stand={latest.data} />}
        {sheet === "emergence" &&
          (analysis.data ? <Emergence stage={stage} analysis={analysis.data} /> : <Waiting query={analysis} />)}
        {sheet === "spacing" &&
          (analysis.data && scouting.data ? (
            <Spacing stage={stage} analysis={analysis.data} scouting={scouting.data} />
          ) : (
            <Waiting query={scouting} />
          ))}
        {sheet === "crowns" &&
          (analysis.data && scouting.data ? (
            <Crowns stage={stage} analysis={analysis.data} scouting={scouting.data} />
          ) : (
            <Waiting query={scouting} />
          ))}
        {sheet === "decide" &&
          (analysis.data ? (
            <Decide stage={stage} analysis={analysis.data} hungry={hungry} setHungry={setHungry} />
          ) : (
            <Waiting query={analysis} />
          ))}
      </Sheets>
    </Columns>
  );
}

const useVisit = (trialId: string, visit: number | null) =>
  useQuery({
    queryKey: ["stand", trialId, visit],
    enabled: visit !== null,
    queryFn: () =>
      ask(
        client.GET("/api/trials/{trial_id}/stand", {
          params: { path: { trial_id: trialId }, query: { visit } },
        }),
      ),
  });

type Verdict = NonNullable<ReturnType<typeof useStandAnalysis>["data"]>["verdict"];

/** The stand in a sentence: how many strips are counted, and how the treatments differ. */
function Answer({ stage, verdict, visits }: { stage: Stage; verdict: Verdict; visits: number }) {
  const { trial } = stage;
  const standing = trial.strips.filter((strip) => !strip.lost);
  const counted = standing.filter((strip) => strip.stand !== null).length;
  const told = verdict?.treatments.filter((treatment) => treatment.difference) ?? [];
  return (
    <section aria-label="The stand so far" className="border-l-4 border-base-content pl-3">
      <h2>
        {counted
          ? `${counted} of ${standing.length} strips counted${visits > 1 ? ` at visit ${visits}` : ""}`
          : "No strip counted yet"}
      </h2>
      {told.length > 0 && (
        <p>
          {told
            .map((item) => {
              const treatment = trial.treatments.find((other) => other.id === item.treatment_id);
              return `${treatment?.letter} ${item.difference?.text} against the control (${item.lower?.text} to ${item.upper?.text})`;
            })
            .join("; ")}
        </p>
      )}
      {verdict && <p className="muted">{verdict.problem || verdict.words.join(" ")}</p>}
    </section>
  );
}
