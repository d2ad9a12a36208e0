import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { useResponseCurves } from "../../../api/queries";
import { CurvePlot } from "../../../ui/charts/CurvePlot";
import { Waiting } from "../../../ui/Waiting";

/** Yield against an amount: shape, best amount for yield and for money, and whether another factor changes it. */
export function Curves({ trialId }: { trialId: string }) {
  const query = useResponseCurves(trialId);
  const [level, setLevel] = useState("");
  if (!query.data) return <Waiting query={query} />;
  const result = query.data;
  if (result.problem) return <p className="mt-2">{result.problem}</p>;
  const curve = result.curves.find((item) => item.level === level) ?? result.curves[0];
  if (!curve) return null;
  return (
    <section aria-label="Response curve" className="mt-2">
      <p className="text-lg font-semibold">{result.answer.join(" ")}</p>
      <p data-curve>{curve.sentence}</p>
      {result.curves.length > 1 && (
        <>
          <p>{result.differ}</p>
          <fieldset className="no-print mt-1 flex flex-wrap items-center gap-4">
            <legend className="sr-only">Which curve</legend>
            {result.curves.map((item) => (
              <label key={item.level} className="flex min-h-12 items-center gap-1.5">
                <input
                  type="radio"
                  name="curve"
                  checked={item.level === curve.level}
                  onChange={() => setLevel(item.level)}
                />
                {item.level || "Over all"}
              </label>
            ))}
          </fieldset>
        </>
      )}
      <figure>
        <figcaption className="font-semibold">
          {result.factor}: strips freed of their block, the curve with its {result.level_pct.toFixed(0)} % band
        </figcaption>
        <CurvePlot responseCurves={narrowed(result, curve.level)} shown={[curve]} />
      </figure>
      <p className="muted">{result.money}</p>
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
                {shape.chosen && " – chosen"}
              </td>
              <td>{shape.formula}</td>
              <td className="num">{shape.aicc}</td>
              <td>{shape.parameters || shape.status}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="muted mt-1 text-sm">
        The lowest AICc is chosen; shapes within 2 of it fit about as well. Parameters in {result.y_unit} and{" "}
        {result.x_unit}. An optimum outside the range tried is never given.
      </p>
    </section>
  );
}

function narrowed(responseCurves: Schemas["ResponseCurvesOut"], level: string): Schemas["ResponseCurvesOut"] {
  return level
    ? { ...responseCurves, points: responseCurves.points.filter((point) => point.group === level) }
    : responseCurves;
}
