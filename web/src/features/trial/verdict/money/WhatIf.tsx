import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useId, useState } from "react";
import { ask, client, type Trial } from "../../../../api/client";
import { faultOf } from "../../../../app/saving";
import { useUnits } from "../../../../ui/fields";
import { Problem } from "../../../../ui/Problem";
import { UnitEntry } from "../../../../ui/UnitEntry";
import { useStage } from "../../TrialFrame";
import { Lines } from "./Scenarios";

/** A price and costs tried on: the answer follows what is typed, nothing is kept. */
export function WhatIf({ trial }: { trial: Trial }) {
  const { reader, currency } = useStage();
  const id = useId();
  const units = useUnits("price", reader).map(([code, label]): [string, string] => [code, currency + label]);
  const [price, setPrice] = useState({ text: "", unit: trial.price.unit });
  const [costs, setCosts] = useState("");
  const asked = useDeferredValue({ price: price.text.trim(), unit: price.unit, costs: costs.trim() });
  const query = useQuery({
    queryKey: ["verdict", trial.id, "what-if", asked],
    queryFn: ({ signal }) =>
      ask(
        client.GET("/api/trials/{trial_id}/what-if", {
          params: { path: { trial_id: trial.id }, query: asked },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
  });
  return (
    <section aria-label="Try a price on" className="mt-4">
      <h3>Try a price on</h3>
      <div className="flex flex-wrap items-end gap-4">
        <div>
          <p className="font-medium">Price tried on</p>
          <UnitEntry label="Price tried on" value={price} units={units} numeric onChange={setPrice} />
        </div>
        <div>
          <label htmlFor={id} className="block">
            Extra costs, percent of today's
          </label>
          <input
            id={id}
            className="entry w-28 text-right"
            inputMode="decimal"
            value={costs}
            onChange={(event) => setCosts(event.target.value)}
          />
        </div>
      </div>
      {query.error && <Problem>{faultOf(query.error).message}</Problem>}
      {query.data && !query.error && (
        <div aria-live="polite">
          <p className="mt-1">
            {query.data.said}. {query.data.best_amount}
          </p>
          <Lines lines={query.data.lines} />
        </div>
      )}
    </section>
  );
}
