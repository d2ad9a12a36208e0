import { useEffect, useState } from "react";
import { ask, client, type Strip } from "../../api/client";
import { TextField } from "../../ui/fields";
import { Caution, Columns } from "./Columns";
import { type Stage, useStage } from "./TrialFrame";

export function Planting() {
  const stage = useStage();
  const { trial, edit, problems, writable, selected, select } = stage;
  const odd = trial.strips.filter((strip) => strip.lost || strip.received_id !== strip.treatment_id);
  return (
    <Columns
      why={
        <>
          <p>
            What really happened counts, not the plan. A strip sown with another treatment is analysed as what it got,
            and once more as planned; a lost strip is left out of the model, its block stays in.
          </p>
          <p>A reason is asked because it decides whether the loss had to do with the treatment.</p>
          <Caution>
            Stay clear of the drill while it turns or folds; stop the engine before clearing a blocked coulter.
          </Caution>
        </>
      }
    >
      <section aria-label="What happened at planting" className="border-l-4 border-base-content pl-3">
        <h2>
          {!trial.planted_on
            ? "Not sown yet"
            : odd.length
              ? `Sown, ${odd.length} of ${trial.strips.length} strips not as planned`
              : "Sown as planned"}
        </h2>
        <div className="mt-1 max-w-52">
          <TextField
            label="Day of sowing"
            type="date"
            value={trial.planted_on ?? ""}
            disabled={!writable}
            error={problems.planted_on}
            onCommit={(day) => void edit({ planted_on: day || null }, "day of sowing")}
          />
        </div>
      </section>
      {odd.length > 0 && (
        <table className="figures mt-4">
          <thead>
            <tr>
              <th className="num">Strip</th>
              <th>What happened</th>
              <th>Reason</th>
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
                <td>{deviation(strip, trial)}</td>
                <td>{strip.reason}</td>
              </tr>
            ))}
          </tbody>
        </table>
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
    </Columns>
  );
}

function deviation(strip: Strip, trial: Stage["trial"]): string {
  if (strip.lost) return "lost";
  const letter = (id: string) => trial.treatments.find((one) => one.id === id)?.letter ?? "";
  return `got ${letter(strip.received_id)} instead of ${letter(strip.treatment_id)}`;
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
          {trial.treatments.map((one) => (
            <option key={one.id} value={one.id}>
              {one.letter}: {one.name}
              {one.id === strip.treatment_id ? ", as planned" : ""}
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
