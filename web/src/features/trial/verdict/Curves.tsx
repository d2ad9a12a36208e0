import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { useResponseCurves } from "../../../api/queries";
import { CurvePlot, type Drawn } from "../../../ui/charts/CurvePlot";
import { Waiting } from "../../../ui/Waiting";

type Curves = Schemas["ResponseCurvesOut"];

/** Yield against an amount: the averaged curve that answers, and the single shapes beside it. */
export function Curves({ trialId, answers }: { trialId: string; answers: boolean }) {
  const query = useResponseCurves(trialId);
  const [level, setLevel] = useState("");
  if (!query.data) return <Waiting query={query} />;
  const result = query.data;
  if (result.problem) return <p className="mt-2">{result.problem}</p>;
  const curve = result.averaged.find((item) => item.level === level) ?? result.averaged[0];
  return (
    <section aria-label="Response curve" className="mt-2">
      {!answers && (
        <p className="text-lg" data-curve>
          Pairs answer in this trial; as a curve, which decides nothing here: {result.answer.join(" ")}
        </p>
      )}
      <Levels levels={result.averaged.map((item) => item.level)} chosen={curve?.level ?? ""} choose={setLevel} />
      {curve && (
        <figure>
          <figcaption className="font-semibold">
            {result.factor}: strips freed of their block, the averaged curve with its {percent(curve.level_pct)} % band
            at each amount. {ranges(curve)}
          </figcaption>
          <CurvePlot responseCurves={narrowed(result, curve.level)} shown={[drawn(curve)]} />
        </figure>
      )}
      {curve && (
        <p>
          Averaged over shapes by how well they fit:{" "}
          {curve.weights.map((weight) => `${weight.name} ${weight.text}`).join(", ")}.
        </p>
      )}
      <p className="muted">{result.money}</p>
      <Shapes result={result} />
    </section>
  );
}

function Levels({ levels, chosen, choose }: { levels: string[]; chosen: string; choose: (level: string) => void }) {
  if (levels.length < 2) return null;
  return (
    <fieldset className="no-print mt-1 flex flex-wrap items-center gap-4">
      <legend className="sr-only">Which curve</legend>
      {levels.map((level) => (
        <label key={level} className="flex min-h-12 items-center gap-1.5">
          <input type="radio" name="curve" checked={level === chosen} onChange={() => choose(level)} />
          {level || "Over all"}
        </label>
      ))}
    </fieldset>
  );
}

/** Each shape for itself: a look that decides nothing. */
function Shapes({ result }: { result: Curves }) {
  const [level, setLevel] = useState("");
  const curve = result.curves.find((item) => item.level === level) ?? result.curves[0];
  if (!curve) return null;
  return (
    <details className="mt-2">
      <summary className="cursor-pointer py-2 font-semibold">
        Each shape for itself: a look that decides nothing
      </summary>
      <Levels levels={result.curves.map((item) => item.level)} chosen={curve.level} choose={setLevel} />
      <p>{result.differ}</p>
      <p>
        Chosen among these it would be a {curve.chosen}. Its parameters and how well the others fit stand below; the
        answer above does not rest on one of them.
      </p>
      {curve.warnings.map((warning) => (
        <p key={warning} className="caution">
          {warning}
        </p>
      ))}
      <table className="figures max-w-3xl">
        <thead>
          <tr>
            <th>Shape</th>
            <th>Formula</th>
            <th className="num">AICc</th>
            <th>Parameters ± standard error</th>
          </tr>
        </thead>
        <tbody>
          {curve.shapes.map((shape) => (
            <tr key={shape.name} className={shape.chosen ? "font-semibold" : ""}>
              <td className="first-letter:uppercase">
                {shape.name}
                {shape.chosen && " – lowest AICc"}
              </td>
              <td>{shape.formula}</td>
              <td className="num">{shape.aicc}</td>
              <td>{shape.parameters || shape.status}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="muted mt-1 text-sm">
        Shapes within 2 of the lowest AICc fit about as well. Parameters in {result.y_unit} and {result.x_unit}.
      </p>
    </details>
  );
}

function percent(level: number): string {
  return Number.isInteger(Math.round(level * 10) / 10) ? level.toFixed(0) : level.toFixed(1);
}

function ranges(curve: Schemas["AveragedOut"]): string {
  if (curve.shown) return "The thick line holds the amounts shown to be near enough to the best.";
  return curve.estimated
    ? "The light line holds the amounts estimated to be near enough to the best, which is not shown."
    : "";
}

function drawn(curve: Schemas["AveragedOut"]): Drawn {
  return {
    level: curve.level,
    words: `averaged curve, best at ${curve.best.toPrecision(3)}`,
    band: curve.band,
    best: curve.best,
    stretches: [
      ...(curve.estimated ? [{ from: curve.estimated[0] ?? null, to: curve.estimated[1] ?? null, firm: false }] : []),
      ...(curve.shown ? [{ from: curve.shown[0] ?? null, to: curve.shown[1] ?? null, firm: true }] : []),
    ],
  };
}

function narrowed(responseCurves: Curves, level: string): Curves {
  return level
    ? { ...responseCurves, points: responseCurves.points.filter((point) => point.group === level) }
    : responseCurves;
}
