import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { useCalculators } from "../../../api/queries";
import { Calculator } from "../../../ui/Calculator";
import { Waiting } from "../../../ui/Waiting";
import type { Stage } from "../TrialFrame";

/** The bench's calculators of yield, this crop's own first. */
export function Reckon({ stage, estimates }: { stage: Stage; estimates: Schemas["EstimatesOut"] }) {
  const { trial, reader } = stage;
  const bench = useCalculators(trial.workspace_id);
  const own = estimates.methods[0]?.calculator ?? "";
  const all = (bench.data ?? []).filter((item) => item.group === "Yield before harvest");
  const entries = [...all.filter((item) => item.key === own), ...all.filter((item) => item.key !== own)];
  const [key, setKey] = useState("");
  const entry = entries.find((item) => item.key === key) ?? entries[0];
  return (
    <>
      <Waiting query={bench} />
      <label className="mb-3 block max-w-xs">
        Way of reckoning
        <select className="entry" value={entry?.key} onChange={(event) => setKey(event.target.value)}>
          {entries.map((item) => (
            <option key={item.key} value={item.key}>
              {item.title}
            </option>
          ))}
        </select>
      </label>
      {entry && (
        <Calculator
          key={`${entry.key} ${reader.own.join()}`}
          entry={entry}
          workspaceId={trial.workspace_id}
          crop={trial.crop}
          reader={reader}
        />
      )}
    </>
  );
}
