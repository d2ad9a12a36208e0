import { useState } from "react";
import type { Schemas } from "../../../../api/client";
import { useMoney } from "../../../../api/queries";
import { GainPlot } from "../../../../ui/charts/GainPlot";
import { TornadoPlot } from "../../../../ui/charts/TornadoPlot";
import { ChoiceField } from "../../../../ui/fields";
import { Scroll } from "../../../../ui/Scroll";
import { Waiting } from "../../../../ui/Waiting";
import { Worked } from "../../../../ui/working";
import { Caution } from "../../Columns";
import { useStage } from "../../TrialFrame";
import { Against, Budgets, Marginal, StripBudgets } from "./Budgets";
import { BestGrid, CallGrid } from "./Grids";
import { MoneyPlan } from "./MoneyPlan";
import { Scenarios } from "./Scenarios";
import { WhatIf } from "./WhatIf";

type Found = Schemas["MoneyOut"];

/** Does it pay: budgets, what would have to be otherwise, how it fell out, and the amount that pays best. */
export function Money() {
  const { trial } = useStage();
  const query = useMoney(trial.id);
  if (!query.data) return <Waiting query={query} />;
  const result = query.data;
  if (result.problem) return <p className="mt-2">{result.problem}</p>;
  return (
    <>
      {result.remarks.map((remark) => (
        <Caution key={remark}>{remark}</Caution>
      ))}
      <Budgets money={result} />
      <Against money={result} />
      <Marginal money={result} />
      {result.replicated ? (
        <Compared money={result} />
      ) : (
        <p className="mt-3">One strip a treatment: what it would take is above, how sure it is cannot be said.</p>
      )}
      <Optimum money={result} />
      {result.replicated && <WhatIf trial={trial} />}
      <Scenarios money={result} />
      {trial.may.includes("prices") && <MoneyPlan key={result.plan.version} money={result} trial={trial} />}
      <StripBudgets money={result} />
    </>
  );
}

function Compared({ money }: { money: Found }) {
  const [key, setKey] = useState("");
  const comparisonMoney = money.comparisons.find((row) => row.key === key) ?? money.comparisons[0];
  if (!comparisonMoney?.grid.length) return null;
  return (
    <section aria-label="How the money moves" className="mt-4">
      <h3>How the money moves</h3>
      {money.comparisons.length > 1 && (
        <div className="max-w-md">
          <ChoiceField
            label="Comparison in money"
            value={comparisonMoney.key}
            onCommit={setKey}
            options={money.comparisons.map((row) => [row.key, row.name])}
          />
        </div>
      )}
      <p className="mt-1">
        {comparisonMoney.name}: {comparisonMoney.estimate.text}, {comparisonMoney.call_words}. {comparisonMoney.words}
      </p>
      <CallGrid comparisonMoney={comparisonMoney} money={money} />
      <div className="mt-2 grid gap-4 2xl:grid-cols-2">
        <figure>
          <figcaption className="font-semibold">What moves it, one thing at a time</figcaption>
          <TornadoPlot bars={comparisonMoney.tornado} unit={money.unit} name={comparisonMoney.name} />
        </figure>
        <figure>
          <figcaption className="font-semibold">How it fell out</figcaption>
          {comparisonMoney.risk.gains.length > 0 && (
            <GainPlot risk={comparisonMoney.risk} unit={money.unit} name={comparisonMoney.name} />
          )}
          <p>{comparisonMoney.risk.words}</p>
          {comparisonMoney.risk.years.length > 0 && (
            <p className="muted">
              {comparisonMoney.risk.years.map((year) => `${year.label}: ${year.gain.text}`).join("; ")}
            </p>
          )}
        </figure>
      </div>
    </section>
  );
}

function Optimum({ money }: { money: Found }) {
  const { optimum } = money;
  if (!optimum.factor) return null;
  return (
    <section aria-label="Amount that pays best" className="mt-4">
      <h3>The {optimum.factor.toLowerCase()} that pays best</h3>
      <p className="text-lg">
        <Worked working={optimum.working}>{optimum.best}</Worked>
      </p>
      {optimum.problem && <p>{optimum.problem}</p>}
      <p>{optimum.flat}</p>
      {optimum.safety && <p>{optimum.safety}</p>}
      {optimum.grid.length > 0 && (
        <Scroll label="Best amounts">
          <BestGrid money={money} />
        </Scroll>
      )}
    </section>
  );
}
