import { useState } from "react";
import { ask, client, type Typed } from "../../api/client";
import { saveCsv } from "../../ui/csv";
import { ChoiceField, QuantityField, TextField } from "../../ui/fields";
import { Stake } from "../../ui/marks";
import { Caution, Columns } from "./Columns";
import { type Stage, useStage } from "./TrialFrame";

type Plan = { design: "rcbd" | "unreplicated"; blocks: string; strip_width: Typed; strip_length: Typed; seed: string };

export function Layout() {
  const stage = useStage();
  const { trial, write, problems, writable, system } = stage;
  const [plan, setPlan] = useState<Plan>({
    design: trial.design || "rcbd",
    blocks: trial.design === "rcbd" ? String(trial.blocks) : "4",
    strip_width: { text: "", unit: system === "us" ? "ft" : "m" },
    strip_length: { text: "", unit: system === "us" ? "ft" : "m" },
    seed: "",
  });
  const [problem, setProblem] = useState("");
  const put = (part: Partial<Plan>) => setPlan({ ...plan, ...part });

  async function draw() {
    const blocks = Number(plan.blocks.trim());
    const seed = plan.seed.trim() ? Number(plan.seed.trim()) : null;
    if (!Number.isInteger(blocks) || (seed !== null && !Number.isInteger(seed))) {
      setProblem(`${Number.isInteger(blocks) ? "The seed of the draw" : "Blocks"} must be a whole number.`);
      return;
    }
    setProblem("");
    await write("layout", (version) =>
      ask(
        client.POST("/api/trials/{trial_id}/layout", {
          params: { path: { trial_id: trial.id } },
          body: {
            version,
            design: plan.design,
            blocks,
            seed,
            strip_width: plan.strip_width,
            strip_length: plan.strip_length,
          },
        }),
      ),
    );
  }

  const open = writable && trial.layout_bound.open;
  return (
    <Columns why={<Why {...stage} />}>
      <Drawn {...stage} />
      {open ? (
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
              options={[
                ["rcbd", "complete blocks, drawn at random"],
                ["unreplicated", "a look: one strip each"],
              ]}
              onCommit={(design) => put({ design: design as Plan["design"] })}
            />
            {plan.design === "rcbd" && (
              <TextField
                label="Blocks"
                inputMode="numeric"
                value={plan.blocks}
                onCommit={(blocks) => put({ blocks })}
              />
            )}
            <QuantityField
              label="Strip width"
              dimension="length"
              system={system}
              value={plan.strip_width}
              onCommit={(strip_width) => put({ strip_width })}
            />
            <QuantityField
              label="Strip length"
              dimension="length"
              system={system}
              value={plan.strip_length}
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
          {(problem || problems.layout) && (
            <p role="alert" className="mt-2 font-medium text-error">
              {problem || problems.layout}
            </p>
          )}
          <button type="submit" className="act mt-3">
            {trial.strips.length ? "Draw anew" : "Draw the strips"}
          </button>
        </form>
      ) : (
        <p className="caution mt-3">
          {trial.layout_bound.open ? "You look on here." : `The layout is fixed now: ${trial.layout_bound.reason} `}
          {!trial.layout_bound.open && "A new draw would take the ground from under them."}
        </p>
      )}
    </Columns>
  );
}

/** What stands drawn: the answer of this stage. */
function Drawn({ trial, select, selected }: Stage) {
  if (!trial.strips.length) {
    return (
      <p className="border-l-4 border-base-content pl-3">
        Nothing drawn yet.{" "}
        {trial.treatments.length < 2
          ? "Settle at least two treatments first."
          : "Say how many blocks and how large a strip is."}
      </p>
    );
  }
  const letter = (id: string) => trial.treatments.find((one) => one.id === id);
  return (
    <section aria-label="The layout" className="border-l-4 border-base-content pl-3">
      <h2>
        {trial.design === "unreplicated"
          ? "A look: one strip a treatment"
          : `${trial.blocks} blocks of ${trial.strips.length / Math.max(trial.blocks, 1)} strips`}
      </h2>
      <p>
        {trial.strips[0]?.width && trial.strips[0].length
          ? `Each strip ${trial.strips[0].width.text} wide and ${trial.strips[0].length.text} long. `
          : ""}
        {trial.seed !== null
          ? `Drawn from seed ${trial.seed}: the same seed gives the same order for ever.`
          : "Taken in from a file; the order is the file's."}
      </p>
      <div className="mt-2 max-h-56 overflow-y-auto">
        <table className="figures">
          <thead>
            <tr>
              <th className="num">Strip</th>
              <th>Block</th>
              <th>Treatment</th>
              <th className="num">Width</th>
              <th className="num">Length</th>
              <th>Note</th>
            </tr>
          </thead>
          <tbody>
            {trial.strips.map((strip) => {
              const planned = letter(strip.treatment_id);
              return (
                <tr key={strip.id} className={strip.id === selected?.id ? "outline-2 outline-accent" : ""}>
                  <td className="num">
                    <button type="button" className="underline" onClick={() => select(strip)}>
                      {strip.order}
                    </button>
                  </td>
                  <td>{strip.block_name}</td>
                  <td>
                    {planned && <Stake letter={planned.letter} position={planned.position} />} {planned?.name}
                  </td>
                  <td className="num">{strip.width?.text}</td>
                  <td className="num">{strip.length?.text}</td>
                  <td>{strip.reason}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
      <button
        type="button"
        className="plain no-print mt-2"
        onClick={() =>
          saveCsv("layout.csv", [
            ["strip", "block", "treatment", "name", "width", "length", "seed"],
            ...trial.strips.map((strip) => [
              strip.order,
              strip.block_name,
              letter(strip.treatment_id)?.letter ?? "",
              letter(strip.treatment_id)?.name ?? "",
              strip.width?.text ?? "",
              strip.length?.text ?? "",
              trial.seed ?? "",
            ]),
          ])
        }
      >
        Save as CSV
      </button>
    </section>
  );
}

function Why({ trial }: Stage) {
  return (
    <>
      <p>
        A block is a stretch of ground as even as can be had, holding every treatment once, in an order drawn by lot.
        What the ground does to a whole block then falls out of every comparison.
      </p>
      <p>
        Lay strips across the slope of the ground so that each block is even within, and let the blocks differ. A strip
        is at least as wide as the combine's cut, with a pass of its own.
      </p>
      {trial.design === "unreplicated" && (
        <Caution>
          With one strip a treatment, ground and treatment cannot be told apart. It is a look, and stays one.
        </Caution>
      )}
      <Caution>
        Keep strips out from under power lines and off headland turns where machines meet; mark them so that the driver
        can see them from the cab.
      </Caution>
    </>
  );
}
