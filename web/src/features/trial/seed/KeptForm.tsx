import { type FormEvent, useState } from "react";
import { ask, client, type Schemas, type Typed } from "../../../api/client";
import { useCalculators } from "../../../api/queries";
import { BenchInput } from "../../../ui/Calculator";
import { Problem } from "../../../ui/Problem";
import type { Stage } from "../TrialFrame";

type Name = Schemas["KeptIn"]["calculator"];
/** Inputs that the treatments and their lots bring themselves. */
const BROUGHT: Record<Name, string[]> = {
  fertiliser: ["row_spacing"],
  wheels: ["row_spacing"],
  meter: ["row_spacing", "rate"],
  envelope: ["row_spacing", "rate", "weight"],
  keep_or_replant: ["stand", "stand_half"],
};
type Props = {
  stage: Stage;
  name: Name;
  kept: Record<string, Typed> | undefined;
  problem: Schemas["KeptProblemOut"] | null;
  /** Inputs of another calculator of the bench asked for along with it: its key and the input's name. */
  more?: [string, string];
};

/** Inputs of a calculator of the bench, kept with the trial; row spacings come from the treatments. */
export function KeptForm({ stage, name, kept, problem, more }: Props) {
  const { trial, write, problems, writable, reader } = stage;
  const bench = useCalculators(trial.workspace_id);
  const [typed, setTyped] = useState<Record<string, Typed>>({});
  const of = (key: string) => bench.data?.find((item) => item.key === key)?.inputs ?? [];
  const inputs = [
    ...of(name).filter((item) => !BROUGHT[name].includes(item.name)),
    ...of(more?.[0] ?? "").filter((item) => item.name === more?.[1]),
  ];
  const typedOf = (input: (typeof inputs)[number]): Typed =>
    typed[input.name] ??
    kept?.[input.name] ??
    (input.choices.length ? input.example : { text: "", unit: input.example.unit });
  const send = (values: Record<string, Typed>) => (version: number) =>
    ask(
      client.PUT("/api/trials/{trial_id}/kept-inputs", {
        params: { path: { trial_id: trial.id } },
        body: { version, calculator: name, values },
      }),
    );
  async function keep(event: FormEvent) {
    event.preventDefault();
    const values = Object.fromEntries(inputs.map((input) => [input.name, typedOf(input)]));
    const done = await write(name, send(values), kept && { label: "these inputs", run: send(kept) });
    if (done) setTyped({});
  }
  return (
    <form onSubmit={keep} className="sheet grid grid-cols-2 items-end gap-3 p-3 md:grid-cols-4">
      {inputs.map((input) => (
        <BenchInput
          key={input.name}
          input={input}
          reader={reader}
          value={typedOf(input)}
          invalid={problem?.field === input.name}
          onChange={(value) => setTyped({ ...typed, [input.name]: value })}
        />
      ))}
      <div className="col-span-full">
        {writable && (
          <button type="submit" className="act">
            Reckon and keep
          </button>
        )}
        <Problem>{problems[name] ?? problem?.message}</Problem>
      </div>
    </form>
  );
}
