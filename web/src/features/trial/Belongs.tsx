import { useState } from "react";
import type { Schemas } from "../../api/client";
import type { Stage } from "./TrialFrame";

type Part = Schemas["TrialOut"]["package"][number];

const PARTS: [Part, string][] = [
  ["machine", "Another machine at sowing"],
  ["passes", "Other passes over the ground"],
  ["inputs", "Other inputs in the season"],
  ["lot", "Another seed lot"],
  ["plot_size", "Strips of another size"],
  ["harvest_day", "Harvest on another day, when ripe"],
];

/** What a level needs to exist, said before the result: it belongs to the treatment, and the verdict is of the package. */
export function Belongs({ trial, edit, writable }: Stage) {
  // a box answers the thumb at once; what the server holds follows, also where it refuses
  const [sent, setSent] = useState<Part[] | null>(null);
  const own = new Set(sent ?? trial.package);
  const fixed = new Set(
    trial.belongings.map((item) => item.part).filter((part) => !trial.package.includes(part as Part)),
  );

  async function change(part: Part, checked: boolean) {
    const next = PARTS.map(([key]) => key).filter((key) => (key === part ? checked : own.has(key)));
    setSent(next);
    await edit({ package: next }, "what belongs to the treatment");
    setSent(null);
  }

  return (
    <fieldset className="sheet px-3 pb-2" disabled={!writable}>
      <legend className="font-semibold">Belongs to the treatment</legend>
      <p className="muted">
        What else a level brings with it. Anything not named here that goes with a treatment, such as its day of sowing
        or the person at the scale, leaves the comparison without a call.
      </p>
      <div className="grid gap-x-4 sm:grid-cols-2">
        {PARTS.map(([part, words]) => {
          return (
            <label key={part} className="flex items-center gap-2 py-0.5">
              <input
                type="checkbox"
                checked={own.has(part) || fixed.has(part)}
                disabled={fixed.has(part)}
                onChange={(event) => void change(part, event.target.checked)}
              />
              <span>
                {words}
                {fixed.has(part) && <span className="muted"> (by what is compared)</span>}
              </span>
            </label>
          );
        })}
      </div>
    </fieldset>
  );
}
