import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { useVerdict } from "../../../api/queries";
import { DifferencePlot } from "../../../ui/charts/DifferencePlot";
import { MeansPlot } from "../../../ui/charts/MeansPlot";
import { ResidualPlots } from "../../../ui/charts/ResidualPlots";
import { Sheets, useSheet } from "../../../ui/Sheets";
import { Waiting } from "../../../ui/Waiting";
import { Caution, Columns } from "../Columns";
import { Confounded } from "../Confounded";
import { useStage } from "../TrialFrame";
import { Reviewed } from "../TrialMenu";
import { Curves } from "./Curves";
import { Explanation } from "./Explanation";
import { FactorTables, Interactions, Polynomials, Strata } from "./Factors";
import { Money } from "./money/Money";
import { Series } from "./Series";
import { AnovaTable, DifferenceTable, MeansTable } from "./Tables";

const SHEETS = [
  ["answer", "The answer"],
  ["money", "Money"],
  ["curve", "Response curve"],
  ["explained", "What explains it"],
  ["series", "Over years"],
] as const;
type Verdicts = Schemas["VerdictOut"];
type Shown = "judged" | "yield" | "net_return";

export function Verdict() {
  const { trial } = useStage();
  const verdict = useVerdict(trial.id);
  const [sheet, go] = useSheet(SHEETS);
  const [chosen, choose] = useState<Shown | null>(null);
  if (!verdict.data) return <Waiting query={verdict} />;
  const result = verdict.data;
  const sheets: [Shown, string, Schemas["AnalysisOut"] | null][] = [
    ["judged", result.primary_name, result.judged],
    ["yield", "Yield", result.yield_],
    ["net_return", "Net return", result.net_return],
  ];
  const there = sheets.filter(([, , analysis]) => analysis);
  const first: Shown = result.judged
    ? "judged"
    : result.primary === "net_return" && result.net_return
      ? "net_return"
      : "yield";
  const primary = sheets.find(([key]) => key === first)?.[2] ?? null;
  const analysis = there.find(([key]) => key === (chosen ?? first))?.[2] ?? there[0]?.[2] ?? null;
  return (
    <Columns why={<Why verdict={result} />}>
      <section aria-label="The verdict" className="border-l-8 border-accent pl-3">
        <p className="tag text-[1.6rem] leading-tight" data-headline>
          {result.headline}
        </p>
        {result.money && <p className="mt-1 text-lg">{result.money}</p>}
        <Settling analysis={primary} />
        {result.source && <p className="muted mt-1">{result.source}</p>}
        <Reviewed trial={trial} />
        {result.problem && (
          <p role="alert" className="mt-1 font-medium text-error">
            {result.problem}
          </p>
        )}
      </section>
      <Sheets label="Answer and what stands behind it" sheets={SHEETS} sheet={sheet} go={go}>
        {sheet === "money" && <Money />}
        {sheet === "curve" && <Curves trialId={trial.id} answers={trial.amounts_by === "curve"} />}
        {sheet === "explained" && <Explanation trialId={trial.id} />}
        {sheet === "series" && <Series trialId={trial.id} writable={trial.may.includes("design")} />}
      </Sheets>
      {sheet === "answer" && analysis && (
        <>
          <Confounded found={result.confounded.filter((item) => !item.declared)} belongings={[]} />
          {there.length > 1 && (
            <fieldset className="no-print mt-3 flex flex-wrap items-center gap-4">
              <legend className="sr-only">What is shown</legend>
              {there.map(([key, label, item]) => (
                <label key={key} className="flex items-center gap-1.5">
                  <input type="radio" name="shown" checked={item === analysis} onChange={() => choose(key)} />
                  {label}
                </label>
              ))}
            </fieldset>
          )}
          <Analysis analysis={analysis} replicated={result.state === "judged"} />
        </>
      )}
    </Columns>
  );
}

/** What it would take to settle the widest open comparison. */
function Settling({ analysis }: { analysis: Schemas["AnalysisOut"] | null }) {
  const open = (analysis?.differences ?? []).filter((row) => row.call === "cannot_tell_yet" && row.settle);
  const widest = open.sort((a, b) => Math.abs(b.estimate.value) - Math.abs(a.estimate.value))[0];
  if (!widest) return null;
  return (
    <p className="mt-1">
      {widest.factor && `${widest.factor}: `}
      {widest.letter} against {widest.against}
      {widest.within && ` at ${widest.within}`}. {widest.settle}
    </p>
  );
}

function Analysis({ analysis, replicated }: { analysis: Schemas["AnalysisOut"]; replicated: boolean }) {
  const { trial } = useStage();
  const positions = new Map(trial.treatments.map((treatment) => [treatment.id, treatment.position]));
  return (
    <>
      <div className="mt-2 grid gap-x-4 gap-y-2 2xl:grid-cols-2">
        <figure>
          <figcaption className="font-semibold">
            {replicated
              ? `Means with ${analysis.level_pct.toFixed(0)} % intervals; rings are the strips`
              : "What the strips gave, one each"}
          </figcaption>
          <MeansPlot analysis={analysis} positions={positions} />
        </figure>
        {replicated && analysis.differences.length > 0 && (
          <figure>
            <figcaption className="font-semibold">{analysis.caption}</figcaption>
            <DifferencePlot analysis={analysis} />
          </figure>
        )}
      </div>
      {replicated && <Interactions analysis={analysis} />}
      {replicated && <FactorTables analysis={analysis} />}
      <MeansTable analysis={analysis} trial={trial} replicated={replicated} />
      <DifferenceTable analysis={analysis} />
      {replicated && (
        <>
          <AnovaTable analysis={analysis} />
          <Strata analysis={analysis} />
          <Polynomials analysis={analysis} />
          <p className="mt-2">{analysis.method}</p>
          {analysis.residuals.length > 0 && (
            <section aria-label="Checks" className="mt-3">
              <h3>What the model leaves</h3>
              {analysis.checks.map((words) => (
                <p key={words}>{words}</p>
              ))}
              <ResidualPlots points={analysis.residuals} unit={analysis.unit} />
              {analysis.second_looks.map((words) => (
                <p key={words}>{words}</p>
              ))}
            </section>
          )}
        </>
      )}
    </>
  );
}

function Why({ verdict }: { verdict: Verdicts }) {
  const analysis = verdict.judged ?? verdict.yield_;
  return (
    <>
      {verdict.left_out.map((leftOut) => (
        <Caution key={leftOut.strip}>
          Strip {leftOut.strip} is not in it: {leftOut.why}
        </Caution>
      ))}
      {verdict.deviations.map((deviation) => (
        <Caution key={deviation.strip}>
          Strip {deviation.strip}: {deviation.why}
        </Caution>
      ))}
      {verdict.amendments.map((said) => (
        <Caution key={said}>Amended after the protocol was frozen. {said}</Caution>
      ))}
      {[...verdict.remarks, ...(analysis?.warnings ?? [])].map((remark) => (
        <Caution key={remark}>{remark}</Caution>
      ))}
      {verdict.alternates.map((alternate) => (
        <div key={alternate.label} className="sheet p-2">
          <h3 className="first-letter:uppercase">{alternate.label}</h3>
          {alternate.lines.map((line) => (
            <p key={line}>{line}</p>
          ))}
        </div>
      ))}
      {verdict.state === "judged" && (
        <p>
          Four calls only: gain, loss, no difference that matters, not clear yet. An interval that holds both nothing
          and something worth having says the trial was too small, not that there is no effect.
        </p>
      )}
      {analysis && analysis.checks.length > 0 && (
        <div>
          <h3>What was checked</h3>
          <ul className="list-disc pl-5">
            {analysis.checks.map((check) => (
              <li key={check}>{check}</li>
            ))}
          </ul>
        </div>
      )}
      <p className="muted">One field and one season speak for themselves; a series over years speaks for more.</p>
    </>
  );
}
