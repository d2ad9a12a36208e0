import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, Fault, type Schemas } from "../../../api/client";
import { useCovariate } from "../../../api/queries";
import { Waiting } from "../../../ui/Waiting";
import type { Stage } from "../TrialFrame";

/** An amount measured on every strip before treatments began: soil, slope, last year's yield. */
export function Before({ stage }: { stage: Stage }) {
  const query = useCovariate(stage.trial.id);
  if (!query.data) return <Waiting query={query} />;
  return <Form stage={stage} covariate={query.data} />;
}

/** What is typed stays until it is kept, whatever else changes in the trial meanwhile. */
function Form({ stage, covariate }: { stage: Stage; covariate: Schemas["CovariateOut"] }) {
  const { trial } = stage;
  const queries = useQueryClient();
  const [name, setName] = useState(covariate.name);
  const [unit, setUnit] = useState(covariate.unit);
  const [day, setDay] = useState(covariate.measured_on ?? "");
  const [reason, setReason] = useState("");
  const [values, setValues] = useState(new Map(covariate.values.map((row) => [row.strip_id, row.text])));
  const [problem, setProblem] = useState("");
  async function keep() {
    setProblem("");
    try {
      await ask(
        client.PUT("/api/trials/{trial_id}/covariate", {
          params: { path: { trial_id: trial.id } },
          body: {
            version: trial.version,
            name,
            unit,
            measured_on: day || null,
            values: [...values].map(([strip_id, text]) => ({ strip_id, text })),
            amendment: reason,
          },
        }),
      );
      await queries.invalidateQueries();
    } catch (error) {
      setProblem(error instanceof Fault ? error.message : "It could not be kept.");
    }
  }
  return (
    <section aria-label="Before planting" className="mt-2">
      <p>
        One amount, measured on every strip before treatments began, can take ground out of the comparison. It adjusts
        the verdict only when it is named in the protocol as that is frozen; what treatments may have changed never
        does.
      </p>
      {covariate.words && <p className="caution">{covariate.words}</p>}
      <div className="mt-2 flex flex-wrap gap-4">
        <label className="flex flex-col">
          What was measured
          <input
            className="input min-h-12"
            value={name}
            maxLength={60}
            disabled={!trial.may.includes("record")}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        <label className="flex flex-col">
          Unit
          <input
            className="input min-h-12 w-28"
            value={unit}
            maxLength={20}
            disabled={!trial.may.includes("record")}
            onChange={(event) => setUnit(event.target.value)}
          />
        </label>
        <label className="flex flex-col">
          Day of measuring
          <input
            type="date"
            className="input min-h-12"
            value={day}
            disabled={!trial.may.includes("record")}
            onChange={(event) => setDay(event.target.value)}
          />
        </label>
        <label className="flex grow flex-col">
          Reason, when the protocol is frozen
          <input
            className="input min-h-12"
            value={reason}
            maxLength={300}
            disabled={!trial.may.includes("record")}
            onChange={(event) => setReason(event.target.value)}
          />
        </label>
      </div>
      <ol className="mt-2 grid grid-cols-[repeat(auto-fill,minmax(8rem,1fr))] gap-2">
        {covariate.values.map((row) => (
          <li key={row.strip_id}>
            <label className="flex items-center gap-2">
              <span className="w-16 whitespace-nowrap">Strip {row.order}</span>
              <input
                className="input min-h-12 w-20"
                inputMode="decimal"
                value={values.get(row.strip_id) ?? ""}
                disabled={!trial.may.includes("record")}
                onChange={(event) => setValues(new Map(values).set(row.strip_id, event.target.value))}
              />
            </label>
          </li>
        ))}
      </ol>
      {trial.may.includes("record") && (
        <button type="button" className="plain mt-2 min-h-12" onClick={() => void keep()}>
          Keep what was measured
        </button>
      )}
      {problem && (
        <p role="alert" className="font-medium text-error">
          {problem}
        </p>
      )}
    </section>
  );
}
