import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { ask, client, type Schemas, type Typed } from "../../../api/client";
import { useDesign } from "../../../api/designs";
import { MarginPlot } from "../../../ui/charts/MarginPlot";
import { useUnits } from "../../../ui/fields";
import { Problem } from "../../../ui/Problem";
import { blankIn } from "../../../ui/readerUnits";
import { UnitEntry } from "../../../ui/UnitEntry";
import { Worked } from "../../../ui/working";
import type { Stage } from "../TrialFrame";

type WhatIf = Schemas["MarginIn"];

export function useMargin(trial: Stage["trial"], whatIf: WhatIf) {
  const design = useDesign(whatIf.design ?? trial.design);
  return useQuery({
    queryKey: ["margin", trial.id, trial.version, whatIf],
    enabled: trial.may.includes("money") && trial.treatments.length > 1 && design.replicated,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      ask(
        client.POST("/api/trials/{trial_id}/margin", {
          params: { path: { trial_id: trial.id } },
          body: whatIf,
        }),
      ),
  });
}

/** What if: typed values wait a moment, then the server judges the plan with them. */
export function HonestMargin({ stage }: { stage: Stage }) {
  const { trial, reader } = stage;
  const blank: Typed = blankIn(reader, "strip_length");
  const lengths = useUnits("length", reader);
  const yields = useUnits("mass_per_area", reader);
  const [blocks, setBlocks] = useState("");
  const [treatments, setTreatments] = useState("");
  const [length, setLength] = useState(blank);
  const [matters, setMatters] = useState<Typed>(blankIn(reader, "yield"));
  const [cv, setCv] = useState("");
  const [cvMain, setCvMain] = useState("");
  const [smith, setSmith] = useState("");
  const typed: WhatIf = {
    cv,
    cv_main: cvMain,
    smith_b: smith,
    ...(/^\d+$/.test(blocks.trim()) ? { blocks: Number(blocks) } : {}),
    ...(/^\d+$/.test(treatments.trim()) ? { treatments: Number(treatments) } : {}),
    ...(length.text.trim() ? { length } : {}),
    ...(matters.text.trim() ? { margin: matters } : {}),
  };
  const settled = useSettled(typed);
  const result = useMargin(trial, settled);
  const amounts = useAmountPlan(trial, settled);
  const alone = Boolean(amounts) && trial.factors.length === 1;
  const design = useDesign(trial.design);
  const split = design.parts.length > 0;

  if (!design.replicated)
    return (
      <p>A look has nothing to judge a difference with: no margin can be given. Repeat every treatment in blocks.</p>
    );
  return (
    <section aria-label="The honest margin">
      <div className="asked mb-2">
        <label>
          What if: blocks
          <input
            className="entry w-20"
            type="number"
            min={2}
            max={40}
            value={blocks || String(result.data?.blocks ?? "")}
            onChange={(event) => setBlocks(event.target.value)}
          />
        </label>
        {trial.factors.length === 1 && (
          <label>
            Treatments
            <input
              className="entry w-20"
              type="number"
              min={2}
              max={40}
              value={treatments || String(trial.treatments.length)}
              onChange={(event) => setTreatments(event.target.value)}
            />
          </label>
        )}
        <div>
          Strip length
          <div className="w-40">
            <UnitEntry label="What if: strip length" value={length} units={lengths} numeric onChange={setLength} />
          </div>
        </div>
        <div>
          Difference that matters
          <div className="w-40">
            <UnitEntry
              label="What if: difference that matters"
              value={matters}
              units={yields}
              numeric
              onChange={setMatters}
            />
          </div>
        </div>
        <label>
          Strip-to-strip CV, %
          <input
            className="entry w-24"
            inputMode="decimal"
            placeholder={result.data?.cv.replace(" %", "")}
            value={cv}
            onChange={(event) => setCv(event.target.value)}
          />
        </label>
        {split && (
          <label>
            Of main strips, %
            <input
              className="entry w-24"
              inputMode="decimal"
              value={cvMain}
              onChange={(event) => setCvMain(event.target.value)}
            />
          </label>
        )}
        <label>
          Smith's b
          <input
            className="entry w-20"
            inputMode="decimal"
            placeholder="0.5"
            value={smith}
            onChange={(event) => setSmith(event.target.value)}
          />
        </label>
      </div>
      <Problem>{result.error?.message}</Problem>
      <OfAmount sentence={amounts} />
      {result.data && !result.error && (alone ? <Pairs margin={result.data} /> : <Judged margin={result.data} />)}
    </section>
  );
}

/** How well a curve would find the best amount with this plan; empty where none is to answer. */
function useAmountPlan(trial: Stage["trial"], whatIf: WhatIf): string {
  const plan = useQuery({
    queryKey: ["amount-plan", trial.id, trial.version, whatIf],
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      ask(
        client.POST("/api/trials/{trial_id}/amount-plan", {
          params: { path: { trial_id: trial.id } },
          body: whatIf,
        }),
      ),
  });
  return plan.data?.sentence ?? "";
}

function OfAmount({ sentence }: { sentence: string }) {
  if (!sentence) return null;
  return <p className="mt-2 border-l-4 border-base-content pl-3 text-lg">{sentence}</p>;
}

/** What pairs could tell, where a curve is to answer. */
function Pairs({ margin }: { margin: Schemas["MarginOut"] }) {
  return (
    <details className="mt-2">
      <summary className="cursor-pointer py-2 font-semibold">If pairs of levels were compared instead</summary>
      <Judged margin={margin} />
    </details>
  );
}

function Judged({ margin }: { margin: Schemas["MarginOut"] }) {
  return (
    <>
      <p className="border-l-4 border-base-content pl-3 text-lg">{margin.sentence}</p>
      <div className="mt-2 grid gap-x-6 lg:grid-cols-[1fr_1.6fr]">
        {margin.changes.length > 0 && (
          <div>
            <h3>What would help most, on the least land</h3>
            {margin.changes_note && <p>{margin.changes_note}</p>}
            <ul className="list-disc pl-5">
              {margin.changes.map((change) => (
                <li key={change.words}>
                  {change.words}: {change.chance} chance, {change.land}
                </li>
              ))}
            </ul>
          </div>
        )}
        <MarginPlot margin={margin} />
      </div>
      <table className="figures mt-2">
        <thead>
          <tr>
            <th>Comparison</th>
            <th className="num">Can be detected</th>
            <th className="num">Difference that matters</th>
            <th className="num">Chance to find that</th>
            <th className="num">Chance to find twice that</th>
            <th className="num">Chance to call it equal if it is</th>
            <th className="num">Error df</th>
          </tr>
        </thead>
        <tbody>
          {margin.rows.map((row) => (
            <tr key={row.key + row.label}>
              <td>{row.label}</td>
              <td className="num">
                <Worked working={row.working}>
                  {row.least ? `${row.least.text} (${row.least_pct.toFixed(1)} %)` : `${row.least_pct.toFixed(1)} %`}
                </Worked>
              </td>
              <td className="num">{row.margin?.text ?? "–"}</td>
              <td className="num">{row.chance ?? "–"}</td>
              <td className="num">{row.chance_twice ?? "–"}</td>
              <td className="num">{row.chance_equal ?? "–"}</td>
              <td className="num">{row.df}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="muted mt-1 text-sm">
        Strip-to-strip variation {margin.cv}, {margin.cv_source}.{" "}
        {margin.expected ? `Expected yield ${margin.expected}, ${margin.yield_source}. ` : ""}
        {margin.settings.join(" ")}
      </p>
    </>
  );
}

/** A value once it has stood still for a moment. */
function useSettled<T>(value: T): T {
  const text = JSON.stringify(value);
  const [settled, setSettled] = useState(text);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(text), 250);
    return () => clearTimeout(timer);
  }, [text]);
  return JSON.parse(settled) as T;
}
