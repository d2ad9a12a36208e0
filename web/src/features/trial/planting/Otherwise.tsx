import { useEffect, useState } from "react";
import { ask, client, type Schemas, type Strip } from "../../../api/client";
import type { Stage } from "../TrialFrame";
import { VoidRecord } from "../VoidRecord";

export type PlantingProps = { stage: Stage; planting: Schemas["PlantingOut"] };

/** Strips that went otherwise: deviations from the field, lost strips, and marks made at the desk. */
export function Otherwise({ stage, planting }: PlantingProps) {
  const { trial, writable, selected, select } = stage;
  const of = new Map(planting.strips.map((strip) => [strip.strip_id, strip.deviations]));
  const odd = trial.strips.filter(
    (strip) => strip.lost || strip.received_id !== strip.treatment_id || (of.get(strip.id)?.length ?? 0) > 0,
  );
  return (
    <>
      {odd.length > 0 ? (
        <table className="figures">
          <thead>
            <tr>
              <th className="num">Strip</th>
              <th>Planned</th>
              <th>As done</th>
              <th>What happened</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {odd.map((strip) => (
              <tr key={strip.id}>
                <td className="num">
                  <button type="button" className="underline" onClick={() => select(strip)}>
                    {strip.order}
                  </button>
                </td>
                <td>{letterOf(trial, strip.treatment_id)}</td>
                <td>{deviation(strip, trial)}</td>
                <td>
                  {!of.get(strip.id)?.some((item) => item.sown_treatment_id === strip.received_id) && strip.reason}
                  {of.get(strip.id)?.map((item) => (
                    <span key={item.id} className="block">
                      {item.words} <span className="muted">{item.recorded_by}</span>
                    </span>
                  ))}
                </td>
                <td>
                  {writable &&
                    of
                      .get(strip.id)
                      ?.map((item) => (
                        <VoidRecord key={item.id} trialId={trial.id} kind="deviation" record={item} what={item.words} />
                      ))}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : (
        <p className="muted">Every strip went as planned, as far as is recorded.</p>
      )}
      {writable && trial.strips.length > 0 && (
        <div className="sheet mt-4 p-3">
          <h2>A strip went otherwise</h2>
          {selected ? (
            <Mark key={selected.id} {...stage} strip={selected} />
          ) : (
            <p className="muted">Choose the strip on the ribbon.</p>
          )}
        </div>
      )}
    </>
  );
}

const letterOf = (trial: Stage["trial"], id: string) =>
  trial.treatments.find((treatment) => treatment.id === id)?.letter ?? "";

function deviation(strip: Strip, trial: Stage["trial"]): string {
  if (strip.lost) return "lost";
  return strip.received_id === strip.treatment_id ? "as planned" : `got ${letterOf(trial, strip.received_id)}`;
}
function Mark({ trial, strip, write, problems }: Stage & { strip: Strip }) {
  const [lost, setLost] = useState(strip.lost);
  const [got, setGot] = useState(strip.received_id);
  const [reason, setReason] = useState(strip.reason);
  useEffect(() => {
    setLost(strip.lost);
    setGot(strip.received_id);
    setReason(strip.reason);
  }, [strip]);
  const send = (body: { lost: boolean; sown_treatment_id: string | null; reason: string }) => () =>
    ask(client.PATCH("/api/strips/{strip_id}", { params: { path: { strip_id: strip.id } }, body }));
  const old = {
    lost: strip.lost,
    sown_treatment_id: strip.received_id === strip.treatment_id ? null : strip.received_id,
    reason: strip.reason,
  };
  return (
    <form
      className="mt-2 grid items-end gap-3 md:grid-cols-[auto_14rem_1fr_auto]"
      onSubmit={(event) => {
        event.preventDefault();
        void write("strip", send({ lost, sown_treatment_id: got === strip.treatment_id ? null : got, reason }), {
          label: `strip ${strip.order}`,
          run: send(old),
        });
      }}
    >
      <label className="flex items-center gap-2 pb-1.5">
        <input type="checkbox" checked={lost} onChange={(event) => setLost(event.target.checked)} /> Strip {strip.order}{" "}
        is lost
      </label>
      <label>
        It got
        <select className="entry" value={got} onChange={(event) => setGot(event.target.value)}>
          {trial.treatments.map((treatment) => (
            <option key={treatment.id} value={treatment.id}>
              {treatment.letter}: {treatment.name}
              {treatment.id === strip.treatment_id ? ", as planned" : ""}
            </option>
          ))}
        </select>
      </label>
      <label>
        Reason
        <input className="entry" value={reason} onChange={(event) => setReason(event.target.value)} />
      </label>
      <button type="submit" className="act">
        Record
      </button>
      {problems.strip && (
        <p role="alert" className="font-medium text-error md:col-span-4">
          {problems.strip}
        </p>
      )}
    </form>
  );
}
