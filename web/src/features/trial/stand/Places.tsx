import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { ask, client, type Schemas, type Typed } from "../../../api/client";
import { useTrialChanged } from "../../../api/queries";
import { faultOf, useSaving } from "../../../app/saving";
import { saveCsv } from "../../../ui/csv";
import { ChoiceField, QuantityField, TextField } from "../../../ui/fields";
import { Stake } from "../../../ui/marks";
import { Problem } from "../../../ui/Problem";
import { HANDY_END, handyIn } from "../../../ui/readerUnits";
import type { Stage } from "../TrialFrame";

type Props = { stage: Stage; stand: Schemas["StandOut"] };

/** The plan of places at hand, strip by strip and as a walk; and making another. */
export function Places({ stage, stand }: Props) {
  const { trial, writable } = stage;
  const { plan } = stand;
  return (
    <>
      {plan ? (
        <section aria-label="The plan at hand">
          <h3>
            {plan.name}: {plan.planned} counts a strip, {plan.reserve} in reserve
          </h3>
          <p className="muted">
            {plan.framed ? "A frame of" : `${plan.rows} ${plan.rows === 1 ? "row" : "rows"} of`} {plan.sample.shown},{" "}
            {plan.end.shown} free at both ends
            {!plan.framed && `, ${plan.edge_rows} edge ${plan.edge_rows === 1 ? "row" : "rows"} out`}
            {plan.wheel_rows && `, wheel rows ${plan.wheel_rows} out`}. Up one strip and down the next is{" "}
            {`${plan.walked}; from the stake each time it would be ${plan.from_stakes}.`}
          </p>
          {plan.problems.map((text) => (
            <p key={text} role="alert" className="font-medium text-error">
              {text}
            </p>
          ))}
          <Walk trial={trial} stand={stand} />
        </section>
      ) : (
        <p className="muted">No places drawn yet. Draw them before anybody goes out: in the field the eye chooses.</p>
      )}
      {writable && trial.strips.length > 0 && <MakePlan stage={stage} />}
    </>
  );
}

function Walk({ trial, stand }: Pick<Stage, "trial"> & { stand: Schemas["StandOut"] }) {
  const of = new Map(stand.strips.map((strip) => [strip.strip_id, strip]));
  const rows = (stand.plan?.walk ?? []).map((step, number) => ({
    number: number + 1,
    strip: trial.strips.find((strip) => strip.id === step.strip_id),
    place: of.get(step.strip_id)?.places.find((place) => place.number === step.place),
    done: of.get(step.strip_id)?.counted_places.includes(step.place) ?? false,
  }));
  return (
    <>
      <table aria-label="Places in walking order" className="figures mt-2 max-w-3xl">
        <thead>
          <tr>
            <th className="num">Step</th>
            <th className="num">Strip</th>
            <th>Treatment</th>
            <th className="num">Place</th>
            <th>Where</th>
            <th>Counted</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(({ number, strip, place, done }) => {
            const treatment = trial.treatments.find((item) => item.id === strip?.received_id);
            return (
              <tr key={number}>
                <td className="num">{number}</td>
                <td className="num">{strip?.order}</td>
                <td>{treatment && <Stake letter={treatment.letter} position={treatment.position} />}</td>
                <td className="num">{place?.number}</td>
                <td>{place?.words}</td>
                <td>{done ? "yes" : ""}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <button
        type="button"
        className="plain no-print mt-2"
        onClick={() =>
          saveCsv("places.csv", [
            ["step", "strip", "place", "row", "metres from the stake", "metres from the left edge"],
            ...rows.map(({ number, strip, place }) => [
              number,
              strip?.order ?? "",
              place?.number ?? "",
              place?.row ?? "",
              place?.along_m ?? "",
              place?.across_m ?? "",
            ]),
          ])
        }
      >
        Save as CSV
      </button>
    </>
  );
}

type Draft = {
  name: string;
  planned: string;
  wanted: Typed;
  sample: Typed;
  framed: boolean;
  rows: string;
  end: Typed;
  edge_rows: string;
  wheel_rows: string;
};

function MakePlan({ stage }: { stage: Stage }) {
  const { trial, reader } = stage;
  const changed = useTrialChanged(trial.id);
  const { save } = useSaving();
  const [draft, setDraft] = useState<Draft>({
    name: "Stand count",
    planned: "",
    wanted: { text: "5", unit: "%" },
    sample: handyIn(reader, "tape_length", { m: "1", ft: "3" }),
    framed: false,
    rows: "2",
    end: handyIn(reader, "strip_length", HANDY_END),
    edge_rows: "1",
    wheel_rows: "",
  });
  const [id, setId] = useState(() => crypto.randomUUID());
  const [problem, setProblem] = useState("");
  const within = Number(draft.wanted.text.replace(",", "."));
  const asked = within >= 0.5 && within <= 50 ? within : 5;
  const sampling = useQuery({
    queryKey: ["sampling", trial.id, asked],
    queryFn: () =>
      ask(
        client.GET("/api/trials/{trial_id}/sampling-plans", {
          params: { path: { trial_id: trial.id }, query: { within_pct: asked } },
        }),
      ),
  });
  const put = (part: Partial<Draft>) => setDraft((now) => ({ ...now, ...part }));
  async function draw(event: FormEvent) {
    event.preventDefault();
    try {
      await save(() =>
        ask(
          client.PUT("/api/trials/{trial_id}/sampling-plans/{plan_id}", {
            params: { path: { trial_id: trial.id, plan_id: id } },
            body: {
              ...draft,
              purpose: "stand",
              method: "",
              planned: draft.planned.trim() ? Number(draft.planned) : null,
              reserve: 6,
              edge_rows: Number(draft.edge_rows),
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
  const suggestion = sampling.data?.suggestion;
  return (
    <form
      onSubmit={draw}
      aria-label="Draw places"
      className="sheet no-print mt-4 grid grid-cols-2 items-start gap-3 p-3 md:grid-cols-4"
    >
      <TextField label="What for" value={draft.name} onCommit={(name) => put({ name })} />
      <QuantityField
        label="Wanted within ±"
        dimension="percent"
        reader={reader}
        value={draft.wanted}
        onCommit={(wanted) => put({ wanted })}
      />
      <TextField
        label="Counts a strip"
        inputMode="numeric"
        value={draft.planned}
        hint={suggestion && `empty: ${suggestion.counts}, as past variation asks for`}
        onCommit={(planned) => put({ planned })}
      />
      <ChoiceField
        label="Counted"
        value={draft.framed ? "frame" : "rows"}
        options={[
          ["rows", "along rows"],
          ["frame", "in a frame or hoop"],
        ]}
        onCommit={(way) => put({ framed: way === "frame" })}
      />
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
        <>
          <TextField label="Rows at once" inputMode="numeric" value={draft.rows} onCommit={(rows) => put({ rows })} />
          <TextField
            label="Edge rows left out"
            inputMode="numeric"
            value={draft.edge_rows}
            onCommit={(edge_rows) => put({ edge_rows })}
          />
          <TextField
            label="Wheel rows left out"
            value={draft.wheel_rows}
            hint="such as 12 13 28-29, from the left edge"
            onCommit={(wheel_rows) => put({ wheel_rows })}
          />
        </>
      )}
      <div className="col-span-full">
        {suggestion && (
          <p className="muted mb-2">
            {suggestion.counts} counts a strip for ±{asked} %: {suggestion.words}.
          </p>
        )}
        <button type="submit" className="act">
          Draw places
        </button>
        <Problem>{problem}</Problem>
      </div>
    </form>
  );
}
