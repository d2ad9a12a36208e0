import { Link } from "react-router";
import { Stake } from "../../../ui/marks";
import { Worked } from "../../../ui/working";
import { VoidRecord } from "../VoidRecord";
import type { PlantingProps } from "./Otherwise";

const pct = (value: number | null) => (value === null ? "" : `${value.toFixed(0)} %`);

/** Depths dug and measured: by treatment first, then strip by strip. */
export function Depths({ stage, planting }: PlantingProps) {
  const { trial, writable, selected, select } = stage;
  const of = new Map(planting.strips.map((strip) => [strip.strip_id, strip]));
  const dug = planting.strips.some((strip) => strip.dug);
  const chosen = selected ? of.get(selected.id) : undefined;
  return (
    <>
      <p className="flex flex-wrap items-center gap-4">
        {planting.window && <span>The crop's usual window is {planting.window}.</span>}
        {writable && trial.strips.length > 0 && (
          <Link
            className="act inline-block"
            to={`/trials/${trial.id}/fieldbook?task=depth${selected ? `&strip=${selected.order}` : ""}`}
          >
            Measure in the field book
          </Link>
        )}
      </p>
      {!dug && (
        <p className="muted mt-2">No depth measured yet: five a strip, under several openers, tell the spread.</p>
      )}
      {dug && (
        <table aria-label="Depth by treatment" className="figures mt-2 max-w-2xl">
          <thead>
            <tr>
              <th>Treatment</th>
              <th className="num">Wanted</th>
              <th className="num">Mean of its strips</th>
              <th className="num">Inside the window</th>
              <th className="num">Measured</th>
            </tr>
          </thead>
          <tbody>
            {planting.treatments.map((row) => {
              const treatment = trial.treatments.find((item) => item.id === row.treatment_id);
              return (
                <tr key={row.treatment_id}>
                  <td>
                    {treatment && <Stake letter={treatment.letter} position={treatment.position} />} {treatment?.name}
                  </td>
                  <td className="num">{row.target?.text}</td>
                  <td className="num">{row.mean?.text ?? "none"}</td>
                  <td className="num">{pct(row.inside_pct)}</td>
                  <td className="num">
                    {row.n} on {row.strips} {row.strips === 1 ? "strip" : "strips"}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      {chosen && chosen.depths.length > 0 && (
        <section aria-label={`Depths of strip ${selected?.order}`} className="sheet mt-3 p-2">
          <h3>Depths of strip {selected?.order}</h3>
          <ul className="flex flex-wrap gap-x-5 gap-y-1">
            {chosen.depths.map((depth) => (
              <li key={depth.id}>
                {depth.depth.text} {depth.depth.unit}{" "}
                {writable && (
                  <VoidRecord
                    trialId={trial.id}
                    kind="depth-check"
                    record={depth}
                    what={`the depth of ${depth.depth.text}`}
                  />
                )}
              </li>
            ))}
          </ul>
        </section>
      )}
      {dug && (
        <table aria-label="Depth by strip" className="figures mt-3 max-w-3xl">
          <thead>
            <tr>
              <th className="num">Strip</th>
              <th>Got</th>
              <th className="num">Wanted</th>
              <th className="num">Mean, 90 % interval</th>
              <th className="num">Off</th>
              <th className="num">Inside the window</th>
              <th className="num">Measured</th>
            </tr>
          </thead>
          <tbody>
            {trial.strips.map((strip) => {
              const row = of.get(strip.id);
              const got = trial.treatments.find((treatment) => treatment.id === strip.received_id);
              return (
                <tr key={strip.id}>
                  <td className="num">
                    <button type="button" className="underline" onClick={() => select(strip)}>
                      {strip.order}
                    </button>
                  </td>
                  <td>{got && <Stake letter={got.letter} position={got.position} />}</td>
                  <td className="num">{row?.target_depth?.text}</td>
                  <td className="num">
                    {row?.dug && (
                      <Worked working={row.dug.working}>
                        {row.dug.mean.text}
                        {row.dug.half_width && ` ± ${row.dug.half_width.text}`}
                      </Worked>
                    )}
                  </td>
                  <td className="num">{row?.dug?.off}</td>
                  <td className="num">{pct(row?.dug?.inside_pct ?? null)}</td>
                  <td className="num">{row?.dug?.n ?? ""}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
    </>
  );
}
