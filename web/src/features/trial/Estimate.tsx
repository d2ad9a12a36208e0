import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client } from "../../api/client";
import { Calculator } from "../../ui/Calculator";
import { Waiting } from "../../ui/Waiting";
import { Caution, Columns } from "./Columns";
import { useStage } from "./TrialFrame";

const METHODS: Record<string, string[]> = {
  maize: ["ears_metric", "ears_acre"],
  soybean: ["pods"],
  sunflower: ["discs"],
};

/** Yield from its components, before the combine comes. */
export function Estimate() {
  const { trial, system } = useStage();
  const bench = useQuery({ queryKey: ["bench", system], queryFn: () => ask(client.GET("/api/bench")) });
  const methods = METHODS[trial.crop] ?? ["heads"];
  const entries = (bench.data ?? []).filter((one) => methods.includes(one.key));
  const [key, setKey] = useState("");
  const entry = entries.find((one) => one.key === key) ?? entries[0];
  return (
    <Columns
      why={
        <>
          <p>
            An estimate multiplies plants or heads, seeds on each, and their weight. Its error is that of its worst
            component: usually the seed weight, guessed weeks before harvest.
          </p>
          <Caution>
            An estimate from a few places is no verdict on treatments. It plans storage and sale; the combine decides
            the trial.
          </Caution>
        </>
      }
    >
      <Waiting query={bench} />
      {entries.length > 1 && (
        <label className="mb-3 block max-w-xs">
          Way of reckoning
          <select className="entry" value={entry?.key} onChange={(event) => setKey(event.target.value)}>
            {entries.map((one) => (
              <option key={one.key} value={one.key}>
                {one.title}
              </option>
            ))}
          </select>
        </label>
      )}
      {entry && <Calculator key={`${entry.key} ${system}`} entry={entry} crop={trial.crop} system={system} />}
    </Columns>
  );
}
