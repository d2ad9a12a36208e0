import { type FormEvent, useEffect, useState } from "react";
import { ask, client, type Schemas, type Typed, type Working } from "../api/client";
import { faultOf } from "../app/saving";
import { useUnits } from "./fields";
import { type ReaderUnits, useCropChoices } from "./readerUnits";
import { WorkingTable } from "./WorkingTable";

type Entry = Schemas["CalculatorOut"];

type Props = { entry: Entry; workspaceId: string; crop: string; reader: ReaderUnits };

/** One calculator: inputs with units, the answer at its top, its working under it. */
export function Calculator({ entry, workspaceId, crop, reader }: Props) {
  const crops = useCropChoices();
  const [values, setValues] = useState<Record<string, Typed>>({});
  const [chosen, setChosen] = useState(crop);
  const [working, setWorking] = useState<Working | null>(null);
  const [problem, setProblem] = useState<{ field: string | null; message: string } | null>(null);
  const filled = Object.fromEntries(entry.inputs.map((input) => [input.name, values[input.name] ?? input.example]));

  // biome-ignore lint/correctness/useExhaustiveDependencies: another system or entry means other units in the answer
  useEffect(() => {
    setWorking(null);
    setProblem(null);
  }, [entry.key, reader]);

  async function reckon(event: FormEvent) {
    event.preventDefault();
    try {
      setWorking(
        await ask(
          client.POST("/api/workspaces/{workspace_id}/bench/{key}", {
            params: { path: { workspace_id: workspaceId, key: entry.key } },
            body: { crop: chosen, values: filled },
          }),
        ),
      );
      setProblem(null);
    } catch (error) {
      setWorking(null);
      setProblem(faultOf(error));
    }
  }

  return (
    <div className="grid gap-5 md:grid-cols-[20rem_1fr]">
      <form onSubmit={reckon} className="space-y-2">
        <p className="muted">{entry.purpose}</p>
        {entry.needs_crop && (
          <label className="block">
            Crop
            <select className="entry" value={chosen} onChange={(event) => setChosen(event.target.value)}>
              {crops.map(([key, name]) => (
                <option key={key} value={key}>
                  {name}
                </option>
              ))}
            </select>
          </label>
        )}
        {entry.inputs.map((input) => (
          <BenchInput
            key={input.name}
            input={input}
            reader={reader}
            value={filled[input.name] as Typed}
            invalid={problem?.field === input.name}
            onChange={(value) => setValues({ ...values, [input.name]: value })}
          />
        ))}
        {problem && (
          <p role="alert" className="font-medium text-error">
            {problem.message}
          </p>
        )}
        <button type="submit" className="act">
          Reckon
        </button>
      </form>
      <section aria-live="polite" aria-label="Answer">
        {working ? (
          <Answer working={working} />
        ) : (
          <p className="muted">The numbers typed are an example; put in your own.</p>
        )}
      </section>
    </div>
  );
}

type InputProps = {
  input: Entry["inputs"][number];
  reader: ReaderUnits;
  value: Typed;
  invalid: boolean;
  onChange: (value: Typed) => void;
};

export function BenchInput({ input, reader, value, invalid, onChange }: InputProps) {
  const units = useUnits(input.dimension, reader);
  const id = `bench-${input.name}`;
  if (input.choices.length)
    return (
      <div>
        <label htmlFor={id}>{input.label}</label>
        <select
          id={id}
          className="entry"
          value={value.text}
          onChange={(event) => onChange({ ...value, text: event.target.value })}
        >
          {input.choices.map(([key = "", name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </select>
      </div>
    );
  return (
    <div>
      <label htmlFor={id}>
        {input.label}
        {input.optional && <span className="muted">, if known</span>}
      </label>
      <div className="flex">
        <input
          id={id}
          className={`entry ${input.dimension === "text" ? "" : "text-right"}`}
          inputMode={input.several || input.dimension === "text" ? "text" : "decimal"}
          value={value.text}
          aria-invalid={invalid}
          onChange={(event) => onChange({ ...value, text: event.target.value })}
        />
        {units.length > 0 && (
          <select
            aria-label={`Unit of ${input.label.toLowerCase()}`}
            className="entry w-36 border-l-0"
            value={value.unit}
            onChange={(event) => onChange({ ...value, unit: event.target.value })}
          >
            {units.map(([code, label]) => (
              <option key={code} value={code}>
                {label}
              </option>
            ))}
          </select>
        )}
      </div>
    </div>
  );
}

function Answer({ working }: { working: Working }) {
  return (
    <>
      <p className="muted">{working.title}</p>
      <p className="tag mb-2 text-4xl">{working.outcome}</p>
      <ol className="space-y-1.5">
        {working.steps.map((step) => (
          <li key={step.label} className="sheet grid gap-x-3 p-2 md:grid-cols-[11rem_1fr]">
            <span className="font-semibold">{step.label}</span>
            <span>
              {step.formula && <span className="muted block">{step.formula}</span>}
              {step.numbers} = <span className="font-semibold">{step.outcome}</span>
              {step.source && <span className="muted block text-sm">Source: {step.source}</span>}
            </span>
          </li>
        ))}
      </ol>
      <WorkingTable rows={working.table} />
      {working.assumption && <p className="caution mt-2">What moves it most. {working.assumption}</p>}
    </>
  );
}
