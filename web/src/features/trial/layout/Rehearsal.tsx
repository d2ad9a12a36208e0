import { useRef, useState } from "react";
import { ask, client, Fault, type Schemas } from "../../../api/client";
import { useDesign } from "../../../api/designs";
import { Problem } from "../../../ui/Problem";
import type { Stage } from "../TrialFrame";

const FIELDS = 1000;
const BATCH = 100;
type Ground = Schemas["RehearsalIn"]["ground"];

/** The plan laid over a thousand fields, a hundred at a time, so that it shows its progress and can be stopped. */
export function Rehearsal({ stage: { trial } }: { stage: Stage }) {
  const design = useDesign(trial.design);
  const [ground, setGround] = useState<Ground>("simulated");
  const [trend, setTrend] = useState("10");
  const [patches, setPatches] = useState("50");
  const [rehearsal, setFound] = useState<Schemas["RehearsalOut"] | null>(null);
  const [running, setRunning] = useState(false);
  const [problem, setProblem] = useState("");
  const stopped = useRef(false);

  async function run() {
    const [trend_pct, share] = [Number(trend), Number(patches)];
    if (!Number.isFinite(trend_pct) || !Number.isFinite(share)) {
      setProblem("Trend and patches are percentages, such as 10 and 50.");
      return;
    }
    stopped.current = false;
    setRunning(true);
    setProblem("");
    setFound(null);
    let last: Schemas["RehearsalOut"] | undefined;
    try {
      while (!stopped.current && (last?.fields ?? 0) < FIELDS) {
        const next: Schemas["RehearsalOut"] = await ask(
          client.POST("/api/trials/{trial_id}/rehearsal", {
            params: { path: { trial_id: trial.id } },
            body: {
              ground,
              trend_pct,
              patch_share: share / 100,
              fields: BATCH,
              start: last?.fields ?? 0,
              part: "",
              what_if: { cv: "", cv_main: "", smith_b: "" },
              tally: last?.tally ?? null,
            },
          }),
        );
        last = next;
        setFound(next);
      }
    } catch (error) {
      setProblem(error instanceof Fault ? error.message : String(error));
    } finally {
      setRunning(false);
    }
  }

  if (!trial.strips.length || !design.replicated)
    return <p className="muted">Draw a replicated layout, and it can be rehearsed here.</p>;
  return (
    <section aria-label="Rehearsal">
      <p>
        The planned layout on {FIELDS} fields that vary, with no true difference, with one that just pays, and with
        twice that: how often would the call be right?
      </p>
      <div className="asked my-2">
        <label>
          Ground
          <select className="entry" value={ground} onChange={(event) => setGround(event.target.value as Ground)}>
            <option value="simulated">simulated: trend, patches, noise</option>
            <option value="map">a real wheat field of 1910, sown alike</option>
          </select>
        </label>
        {ground === "simulated" && (
          <>
            <label>
              Trend across, %
              <input
                className="entry w-20"
                inputMode="decimal"
                value={trend}
                onChange={(event) => setTrend(event.target.value)}
              />
            </label>
            <label>
              Patches, % of the variation
              <input
                className="entry w-20"
                inputMode="decimal"
                value={patches}
                onChange={(event) => setPatches(event.target.value)}
              />
            </label>
          </>
        )}
        <button type="button" className="act" disabled={running} onClick={() => void run()}>
          Rehearse
        </button>
        {running && (
          <button
            type="button"
            className="plain"
            onClick={() => {
              stopped.current = true;
            }}
          >
            Stop
          </button>
        )}
        <progress
          className="h-3 w-48 self-center"
          max={FIELDS}
          value={rehearsal?.fields ?? 0}
          aria-label="Fields rehearsed"
        />
        <span className="muted self-center">{rehearsal ? `${rehearsal.fields} of ${FIELDS} fields` : ""}</span>
      </div>
      <Problem>{problem}</Problem>
      {rehearsal && (
        <>
          <table className="figures">
            <thead>
              <tr>
                <th>Order</th>
                <th>Truth</th>
                <th className="num">Right call</th>
                <th className="num">Wrong call</th>
                <th className="num">Not clear yet</th>
              </tr>
            </thead>
            <tbody>
              {rehearsal.rows.map((row) => (
                <tr key={row.order + row.truth}>
                  <td>{row.order}</td>
                  <td>{row.truth}</td>
                  <td className="num">{row.right}</td>
                  <td className="num">{row.wrong}</td>
                  <td className="num">{row.cannot_tell}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {rehearsal.words.map((said) => (
            <p key={said} className="mt-1">
              {said}
            </p>
          ))}
          <p className="muted mt-1 text-sm">
            Map: Mercer and Hall 1911, from spData (CC0), with its own variation. Right at no difference is “no
            difference that matters”; otherwise “gain”.
          </p>
        </>
      )}
    </section>
  );
}
