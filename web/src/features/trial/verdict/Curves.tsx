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
  const found = query.data;
  if (found.problem) return <p className="mt-2">{found.problem}</p>;
  const curve = found.curves.find((one) => one.level === level) ?? found.curves[0];
  if (!curve) return null;
  return (
    <section aria-label="Response curve" className="mt-2">
      <p className="text-lg" data-curve>
        {curve.sentence}
      </p>
      {found.curves.length > 1 && (
        <>
          <p>{found.differ}</p>
          <fieldset className="no-print mt-1 flex flex-wrap items-center gap-4">
            <legend className="sr-only">Which curve</legend>
            {found.curves.map((one) => (
              <label key={one.level} className="flex min-h-12 items-center gap-1.5">
                <input
                  type="radio"
                  name="curve"
                  checked={one.level === curve.level}
                  onChange={() => setLevel(one.level)}
                />
                {one.level || "Over all"}
              </label>
            ))}
          </fieldset>
        </>
      )}
      <figure>
        <figcaption className="font-semibold">
          {found.factor}: strips freed of their block, the curve with its {found.level_pct.toFixed(0)} % band
        </figcaption>
        <CurvePlot found={narrowed(found, curve.level)} shown={[curve]} />
      </figure>
      <p className="muted">{found.money}</p>
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
        The lowest AICc is chosen; shapes within 2 of it fit about as well. Parameters in {found.y_unit} and{" "}
        {found.x_unit}. An optimum outside the range tried is never given.
      </p>
    </section>
  );
}

function narrowed(found: Schemas["ResponseCurvesOut"], level: string): Schemas["ResponseCurvesOut"] {
  return level ? { ...found, points: found.points.filter((point) => point.group === level) } : found;
}
