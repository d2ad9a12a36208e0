import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client } from "../../../api/client";
import { useDesign } from "../../../api/designs";
import { useCatalogue, useMachines } from "../../../api/queries";
import { ChoiceField, QuantityField, TextField } from "../../../ui/fields";
import { Problem } from "../../../ui/Problem";
import type { Stage } from "../TrialFrame";
import { bodyOf, type Design, type Plan, planOf } from "./plan";

/** Design, machines and place of the strips; one button draws them. */
export function DrawForm({ stage }: { stage: Stage }) {
  const { trial, write, problems, reader } = stage;
  const catalogue = useCatalogue();
  const [plan, setPlan] = useState<Plan>(() => planOf(trial, reader));
  const [problem, setProblem] = useState("");
  const put = (part: Partial<Plan>) => setPlan((now) => ({ ...now, ...part }));
  const design = useDesign(plan.design);
  const shared = { reader, dimension: "length" };

  async function draw() {
    const body = bodyOf(plan);
    setProblem(typeof body === "string" ? body : "");
    if (typeof body === "string") return;
    await write("layout", (version, amendment) =>
      ask(
        client.POST("/api/trials/{trial_id}/layout", {
          params: { path: { trial_id: trial.id } },
          body: { ...body, version, amendment },
        }),
      ),
    );
  }

  return (
    <form
      className="sheet mt-3 p-3"
      onSubmit={(event) => {
        event.preventDefault();
        void draw();
      }}
    >
      <h2 className="mb-2">{trial.strips.length ? "Draw it anew" : "Draw the layout"}</h2>
      <div className="grid grid-cols-2 gap-3 md:grid-cols-5">
        <ChoiceField
          label="Design"
          value={plan.design}
          options={(catalogue.data?.designs ?? []).map((item): [string, string] => [item.key, item.name])}
          onCommit={(key) => put({ design: key as Design })}
        />
        {design.blocks_asked && (
          <TextField
            label={design.blocked ? "Blocks" : "Repeats"}
            inputMode="numeric"
            value={plan.blocks}
            onCommit={(blocks) => put({ blocks })}
          />
        )}
        <QuantityField
          {...shared}
          label="Strip width"
          value={plan.strip_width}
          hint={plan.machines.length ? "Empty takes the narrowest whole passes." : undefined}
          onCommit={(strip_width) => put({ strip_width })}
        />
        <QuantityField
          {...shared}
          label="Strip length"
          value={plan.strip_length}
          hint={trial.field ? "Empty takes all there is." : undefined}
          onCommit={(strip_length) => put({ strip_length })}
        />
        <TextField
          label="Seed of the draw"
          inputMode="numeric"
          value={plan.seed}
          hint="Empty draws one."
          onCommit={(seed) => put({ seed })}
        />
      </div>
      {design.rule && <p className="muted mt-1 text-sm">{design.rule}</p>}
      {design.parts.length > 0 && <Parts stage={stage} plan={plan} put={put} />}
      <Machines stage={stage} plan={plan} put={put} />
      <details className="mt-3" open={trial.layout.placed}>
        <summary className="cursor-pointer font-semibold">Place on the field, and conditions of the draw</summary>
        <div className="mt-2 grid grid-cols-2 gap-3 md:grid-cols-4">
          <TextField
            label="Driving direction, degrees"
            inputMode="decimal"
            value={plan.heading}
            hint="From north; empty takes the field's."
            onCommit={(heading) => put({ heading })}
          />
          <QuantityField
            {...shared}
            label="Headland"
            value={plan.headland}
            onCommit={(headland) => put({ headland })}
          />
          <TextField
            label="Guard strips a side"
            inputMode="numeric"
            value={plan.guards}
            onCommit={(guards) => put({ guards })}
          />
          <QuantityField
            {...shared}
            label="Kept free at the left side"
            value={plan.side}
            onCommit={(side) => put({ side })}
          />
          <TextField
            label="Rows of blocks"
            inputMode="numeric"
            value={plan.tiers}
            hint="Small plots: blocks one behind the other."
            onCommit={(tiers) => put({ tiers })}
          />
          <QuantityField
            {...shared}
            label="Alley between rows"
            value={plan.alley}
            onCommit={(alley) => put({ alley })}
          />
          <QuantityField
            {...shared}
            label="Harvested swath"
            value={plan.swath}
            hint="Empty takes whole headers."
            onCommit={(swath) => put({ swath })}
          />
        </div>
        {design.takes_conditions && <Conditions stage={stage} plan={plan} put={put} />}
      </details>
      <Problem>{problem || problems.layout}</Problem>
      <button type="submit" className="act mt-3">
        {trial.strips.length ? "Draw anew" : "Draw the strips"}
      </button>
    </form>
  );
}

type PartProps = { stage: Stage; plan: Plan; put: (part: Partial<Plan>) => void };

function Parts({ stage, plan, put }: PartProps) {
  const factors = stage.trial.factors;
  const design = useDesign(plan.design);
  const hard = Math.max(
    0,
    factors.findIndex((factor) => factor.hard_to_change),
  );
  const main = plan.main ?? hard;
  const options = factors.map((factor, place): [string, string] => [String(place), factor.title]);
  return (
    <div className="mt-2 grid grid-cols-2 gap-3 md:grid-cols-4">
      <ChoiceField
        label={design.crossed ? "Strips along the drive" : "On main strips"}
        value={String(main)}
        options={options}
        onCommit={(value) => put({ main: Number(value), sub: null })}
      />
      {design.parts.includes("subsub") && (
        <ChoiceField
          label="Inside them"
          value={String(plan.sub ?? factors.findIndex((_, place) => place !== main))}
          options={options.filter(([place]) => place !== String(main))}
          onCommit={(value) => put({ sub: Number(value) })}
        />
      )}
    </div>
  );
}

function Machines({ stage, plan, put }: PartProps) {
  const { trial } = stage;
  const machines = useMachines(trial.workspace_id);
  const widths = useQuery({
    queryKey: ["widths", trial.id, plan.machines],
    enabled: plan.machines.length > 0,
    retry: false,
    queryFn: () =>
      ask(
        client.POST("/api/trials/{trial_id}/strip-widths", {
          params: { path: { trial_id: trial.id } },
          body: { machines: plan.machines },
        }),
      ),
  });
  if (!machines.data?.length)
    return <p className="muted mt-2 text-sm">Machines added in Setup help to find the width.</p>;
  return (
    <fieldset className="mt-2">
      <legend className="font-semibold">Machines that must fill a strip in whole passes</legend>
      <div className="flex flex-wrap gap-x-4">
        {machines.data.map((machine) => (
          <label key={machine.id} className="flex items-center gap-1.5">
            <input
              type="checkbox"
              checked={plan.machines.includes(machine.id)}
              onChange={(event) =>
                put({
                  machines: event.target.checked
                    ? [...plan.machines, machine.id]
                    : plan.machines.filter((id) => id !== machine.id),
                })
              }
            />
            {machine.name}
          </label>
        ))}
      </div>
      {plan.machines.length > 0 && widths.error && <p className="muted">{widths.error.message}</p>}
      {plan.machines.length > 0 && widths.data && (
        <p className="mt-1">
          {widths.data.options.length ? "Widths that hold whole passes: " : widths.data.explanation}
          {widths.data.options.map((option) => (
            <button
              key={option.words}
              type="button"
              className="worked mr-3"
              title="Take this width"
              onClick={() => put({ strip_width: option.width })}
            >
              {option.words}
            </button>
          ))}
        </p>
      )}
    </fieldset>
  );
}

function Conditions({ stage, plan, put }: PartProps) {
  return (
    <div className="mt-2 flex flex-wrap items-end gap-x-5 gap-y-2">
      <label className="flex items-center gap-1.5">
        <input
          type="checkbox"
          checked={plan.no_equal_neighbours}
          onChange={(event) => put({ no_equal_neighbours: event.target.checked })}
        />
        never the same treatment in neighbouring strips
      </label>
      <label className="flex items-center gap-1.5">
        <input
          type="checkbox"
          checked={plan.balance_neighbours}
          onChange={(event) => put({ balance_neighbours: event.target.checked })}
        />
        neighbours as even as possible
      </label>
      <div className="w-60">
        <ChoiceField
          label="First strip"
          value={plan.first ?? ""}
          options={[
            ["", "drawn like the others"],
            ...stage.trial.treatments.map((treatment): [string, string] => [
              treatment.id,
              `${treatment.letter}, ${treatment.name}`,
            ]),
          ]}
          onCommit={(first) => put({ first: first || null })}
        />
      </div>
    </div>
  );
}
