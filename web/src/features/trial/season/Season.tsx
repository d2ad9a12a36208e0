import { useSchedule, useScouting } from "../../../api/queries";
import { Sheets, useSheet } from "../../../ui/Sheets";
import { Waiting } from "../../../ui/Waiting";
import { Caution, Columns } from "../Columns";
import { useStage } from "../TrialFrame";
import { Judged } from "./Judged";
import { Log } from "./Log";
import { Measured } from "./Measured";
import { Photos } from "./Photos";
import { Visits } from "./Visits";

const SHEETS = [
  ["log", "Log"],
  ["measured", "Measured"],
  ["judged", "Judged"],
  ["photos", "Photographs"],
  ["visits", "Visits due"],
] as const;

const WHY: Record<(typeof SHEETS)[number][0], string[]> = {
  log: [
    "A result without its season cannot be carried to another year. Note what hit all strips, and above all what hit only some: that is what could pass for a treatment. Such strips carry a mark on the ribbon.",
  ],
  measured: [
    "Numbers with a unit and a sample. The strip is what was treated: its plants are averaged first. Differences are described with their interval; only yield and net return are called.",
  ],
  judged: [
    "What an eye says stays apart from what is counted, and is best taken blind: strip numbers only. Where both exist they stand side by side; they often disagree, and then the count has the better claim.",
  ],
  photos: ["Photographs are kept by strip, made smaller, and without the place where they were taken."],
  visits: [
    "Plants do not read calendars: visits fall due by heat units since sowing, or by days where the weather is not known. A wet day moves a visit on.",
  ],
};

/** The Season stage: what happened, what was measured, what was judged, and what is due. */
export function Season() {
  const stage = useStage();
  const [sheet, go] = useSheet(SHEETS);
  const scouting = useScouting(stage.trial.id);
  const schedule = useSchedule(stage.trial.id);
  const some = stage.trial.strips.filter((strip) => strip.events.length > 0);
  const next = schedule.data?.visits.find((visit) => ["overdue", "due", "wait", "coming"].includes(visit.state));
  const disagree = scouting.data?.agreements.flatMap((agreement) => agreement.both.filter((both) => !both.agree)) ?? [];
  return (
    <Columns
      why={
        <>
          {WHY[sheet].map((text) => (
            <p key={text}>{text}</p>
          ))}
          {schedule.data?.cautions.map((text) => (
            <Caution key={text}>{text}</Caution>
          ))}
          <Caution>
            Sprays: the label decides on dose, timing, protection and re-entry. What is written here is a note, never a
            recommendation.
          </Caution>
        </>
      }
    >
      <section aria-label="The season in short" className="border-l-4 border-base-content pl-3">
        <h2 className="first-letter:uppercase">
          {stage.trial.stages.find((item) => item.key === "season")?.note ?? "nothing noted or measured"}
        </h2>
        <p>
          {some.length > 0 && `${some.length} of ${stage.trial.strips.length} strips had something of their own. `}
          {disagree[0] && `${disagree[0].words}. `}
          {next && `Next: ${next.what.toLowerCase()}, ${next.on}.`}
        </p>
      </section>
      <Sheets label="Sheets of the season" sheets={SHEETS} sheet={sheet} go={go}>
        {sheet === "log" && <Log stage={stage} />}
        {sheet === "visits" &&
          (schedule.data ? <Visits stage={stage} schedule={schedule.data} /> : <Waiting query={schedule} />)}
        {sheet !== "log" &&
          sheet !== "visits" &&
          (scouting.data ? (
            <>
              {sheet === "measured" && <Measured stage={stage} scouting={scouting.data} />}
              {sheet === "judged" && <Judged stage={stage} scouting={scouting.data} />}
              {sheet === "photos" && <Photos stage={stage} scouting={scouting.data} />}
            </>
          ) : (
            <Waiting query={scouting} />
          ))}
      </Sheets>
    </Columns>
  );
}
