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
  const found = query.data;
  if (found.problem) return <p className="mt-2">{found.problem}</p>;
  return (
    <>
      {found.remarks.map((remark) => (
        <Caution key={remark}>{remark}</Caution>
      ))}
      <Budgets found={found} />
      <Against found={found} />
      <Marginal found={found} />
      {found.replicated ? (
        <Compared found={found} />
      ) : (
        <p className="mt-3">One strip a treatment: what it would take is above, how sure it is cannot be said.</p>
      )}
      <Optimum found={found} />
      {found.replicated && <WhatIf trial={trial} />}
      <Scenarios found={found} />
      {trial.writable && <MoneyPlan key={found.plan.version} found={found} trial={trial} />}
      <StripBudgets found={found} />
    </>
  );
}

function Compared({ found }: { found: Found }) {
  const [key, setKey] = useState("");
  const one = found.comparisons.find((row) => row.key === key) ?? found.comparisons[0];
  if (!one?.grid.length) return null;
  return (
    <section aria-label="How the money moves" className="mt-4">
      <h3>How the money moves</h3>
      {found.comparisons.length > 1 && (
        <div className="max-w-md">
          <ChoiceField
            label="Comparison in money"
            value={one.key}
            onCommit={setKey}
            options={found.comparisons.map((row) => [row.key, row.name])}
          />
        </div>
      )}
      <p className="mt-1">
        {one.name}: {one.estimate.text}, {one.call_words}. {one.words}
      </p>
      <CallGrid one={one} found={found} />
      <div className="mt-2 grid gap-4 2xl:grid-cols-2">
        <figure>
          <figcaption className="font-semibold">What moves it, one thing at a time</figcaption>
          <TornadoPlot bars={one.tornado} unit={found.unit} name={one.name} />
        </figure>
        <figure>
          <figcaption className="font-semibold">How it fell out</figcaption>
          {one.risk.gains.length > 0 && <GainPlot risk={one.risk} unit={found.unit} name={one.name} />}
          <p>{one.risk.words}</p>
          {one.risk.years.length > 0 && (
            <p className="muted">{one.risk.years.map((year) => `${year.label}: ${year.gain.text}`).join("; ")}</p>
          )}
        </figure>
      </div>
    </section>
  );
}

function Optimum({ found }: { found: Found }) {
  const { optimum } = found;
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
          <BestGrid found={found} />
        </Scroll>
      )}
    </section>
  );
}
