import { type FormEvent, useState } from "react";
import { ask, client, type Schemas, type Typed } from "../../../api/client";
import { useTrialChanged } from "../../../api/queries";
import { faultOf, useSaving } from "../../../app/saving";
import { ChoiceField, QuantityField, TextField } from "../../../ui/fields";
import { Stake } from "../../../ui/marks";
import { Problem } from "../../../ui/Problem";
import { HANDY_END, handyIn } from "../../../ui/readerUnits";
import { drawnPieces } from "../../fieldbook/yieldSteps";
import type { Stage } from "../TrialFrame";

type Estimates = Schemas["EstimatesOut"];
type Props = { stage: Stage; estimates: Estimates };

/** The places and plants drawn, and drawing others. */
export function Drawn({ stage, estimates }: Props) {
  const { plan } = estimates;
  const method = estimates.methods.find((item) => item.key === estimates.method);
  return (
    <>
      {plan ? (
        <section aria-label="The draw at hand">
          <h3>
            {method?.name}: {plan.planned} places a strip
            {method?.counted && `, ${estimates.pieces} ${method.pieces} at each`}
          </h3>
          <p className="muted">
            {plan.framed ? "A frame of side" : "A row of"} {plan.sample.text} {plan.sample.unit}. Up one strip and down
            the next is {plan.walked}. The same draw gives the same plants for ever.
          </p>
          {plan.problems.map((text) => (
            <p key={text} role="alert" className="font-medium text-error">
              {text}
            </p>
          ))}
          <Walk stage={stage} estimates={estimates} piece={method?.piece ?? "piece"} />
        </section>
      ) : (
        <p className="muted">
          Nothing drawn yet. Draw before anybody goes out: in the field the eye chooses, and it chooses well-filled
          ears.
        </p>
      )}
      {stage.writable && stage.trial.strips.length > 0 && <MakeDraw stage={stage} estimates={estimates} />}
    </>
  );
}

function Walk({ stage, estimates, piece }: Props & { piece: string }) {
  const { trial } = stage;
  const [counted, setCounted] = useState("30");
  const of = new Map(estimates.strips.map((strip) => [strip.strip_id, strip]));
  const many = /^\d{1,4}$/.test(counted) ? Number(counted) : 0;
  return (
    <>
      {estimates.pieces > 0 && (
        <label className="no-print my-2 flex items-center gap-2">
          Were there
          <input
            className="entry w-20 text-right"
            inputMode="numeric"
            value={counted}
            onChange={(event) => setCounted(event.target.value)}
          />
          on the area, these would be taken; the field book draws them from what is counted.
        </label>
      )}
      <table aria-label="Plants drawn, in walking order" className="figures max-w-4xl">
        <thead>
          <tr>
            <th className="num">Strip</th>
            <th>Treatment</th>
            <th className="num">Place</th>
            <th>Where</th>
            {estimates.pieces > 0 && <th>Take, counting from the peg</th>}
            <th>Sampled</th>
          </tr>
        </thead>
        <tbody>
          {(estimates.plan?.walk ?? []).map((step) => {
            const strip = trial.strips.find((item) => item.id === step.strip_id);
            const row = of.get(step.strip_id);
            const place = row?.places.find((drawnPlace) => drawnPlace.number === step.place);
            const treatment = trial.treatments.find((item) => item.id === strip?.received_id);
            const done = row?.samples.some(
              (sample) => sample.plan_id === estimates.plan?.id && sample.place === step.place,
            );
            return (
              <tr key={`${step.strip_id}${step.place}`}>
                <td className="num">{strip?.order}</td>
                <td>{treatment && <Stake letter={treatment.letter} position={treatment.position} />}</td>
                <td className="num">{step.place}</td>
                <td>{place?.words}</td>
                {estimates.pieces > 0 && (
                  <td>
                    {piece} {place && many > 0 ? drawnPieces(many, estimates.pieces, place.start).join(", ") : "–"}
                  </td>
                )}
                <td>{done ? "yes" : ""}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </>
  );
}

type Draft = {
  method: string;
  planned: string;
  pieces: string;
  framed: boolean;
  sample: Typed;
  end: Typed;
  wheel_rows: string;
};

function MakeDraw({ stage, estimates }: Props) {
  const { trial, reader } = stage;
  const changed = useTrialChanged(trial.id);
  const { save } = useSaving();
  const first = estimates.methods.find((item) => item.key === estimates.setting.method) ?? estimates.methods[0];
  const side: Typed = handyIn(reader, "strip_length", { m: "0.5", ft: "1.6" });
  const row: Typed = /2$/.test(estimates.sample.unit)
    ? handyIn(reader, "tape_length", { m: "5", ft: "17.5" })
    : { text: estimates.sample.text, unit: estimates.sample.unit };
  const [draft, setDraft] = useState<Draft>({
    method: first?.key ?? "ears",
    planned: String(estimates.setting.places),
    pieces: String(estimates.setting.pieces),
    framed: first?.framed ?? false,
    sample: first?.framed ? side : row,
    end: handyIn(reader, "strip_length", HANDY_END),
    wheel_rows: "",
  });
  const [id, setId] = useState(() => crypto.randomUUID());
  const [problem, setProblem] = useState("");
  const method = estimates.methods.find((item) => item.key === draft.method) ?? first;
  const put = (part: Partial<Draft>) => setDraft((now) => ({ ...now, ...part }));
  async function draw(event: FormEvent) {
    event.preventDefault();
    try {
      await save(() =>
        ask(
          client.PUT("/api/trials/{trial_id}/sampling-plans/{plan_id}", {
            params: { path: { trial_id: trial.id, plan_id: id } },
            body: {
              name: "Yield samples",
              purpose: "yield",
              method: draft.method,
              planned: Number(draft.planned) || null,
              pieces: Number(draft.pieces) || null,
              reserve: 2,
              framed: draft.framed,
              sample: draft.sample,
              rows: "1",
              end: draft.end,
              edge_rows: 1,
              wheel_rows: draft.framed ? "" : draft.wheel_rows,
              wanted: { text: "5", unit: "%" },
              recorded_at: new Date().toISOString(),
            },
          }),
        ),
      );
      setId(crypto.randomUUID());
      setProblem("");
      changed();
    } catch (error) {
      setProblem(faultOf(error).message);
    }
  }
  return (
    <form
      onSubmit={draw}
      aria-label="Draw plants"
      className="sheet no-print mt-4 grid grid-cols-2 items-start gap-3 p-3 md:grid-cols-3"
    >
      <ChoiceField
        label="Method"
        value={draft.method}
        options={estimates.methods.map((item) => [item.key, item.name])}
        onCommit={(key) => {
          const next = estimates.methods.find((item) => item.key === key);
          const framed = next?.framed ?? false;
          put({ method: key, framed, sample: framed ? side : row });
        }}
      />
      <TextField
        label="Places a strip"
        inputMode="numeric"
        value={draft.planned}
        onCommit={(planned) => put({ planned })}
      />
      {method?.counted && (
        <TextField
          label={`${method.pieces.charAt(0).toUpperCase()}${method.pieces.slice(1)} at each place`}
          inputMode="numeric"
          value={draft.pieces}
          hint="about ten pieces a strip are usual: common practice, no source"
          onCommit={(pieces) => put({ pieces })}
        />
      )}
      {!method?.framed && (
        <ChoiceField
          label="Counted"
          value={draft.framed ? "frame" : "rows"}
          options={[
            ["rows", "along a row"],
            ["frame", "in a frame"],
          ]}
          onCommit={(way) => put({ framed: way === "frame", sample: way === "frame" ? side : row })}
        />
      )}
      <QuantityField
        label={draft.framed ? "Side of the frame" : "Length of row"}
        dimension="length"
        reader={reader}
        value={draft.sample}
        onCommit={(sample) => put({ sample })}
      />
      <QuantityField
        label="Kept free at both ends"
        dimension="length"
        reader={reader}
        value={draft.end}
        onCommit={(end) => put({ end })}
      />
      {!draft.framed && (
        <TextField
          label="Wheel rows left out"
          value={draft.wheel_rows}
          hint="such as 12 13 28-29, from the left edge; one edge row stays out anyhow"
          onCommit={(wheel_rows) => put({ wheel_rows })}
        />
      )}
      <div className="col-span-full">
        <Problem>{problem}</Problem>
        <button type="submit" className={estimates.plan ? "plain" : "act"}>
          {estimates.plan ? "Draw others" : "Draw"}
        </button>
      </div>
    </form>
  );
}
