import { useState } from "react";
import { Link } from "react-router";
import { ask, client, type Schemas } from "../../api/client";
import { useTrials } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { may } from "../../app/rights";
import { faultOf, useSaving } from "../../app/saving";
import { TextField } from "../../ui/fields";
import { Problem } from "../../ui/Problem";

const COMBINE = [
  ["lag_s", "Grain arrives late by, s", "10"],
  ["noise_pct", "Noise of a reading, %", "3"],
  ["gain", "Monitor reads × the truth", "1.05"],
  ["moisture_pct", "Moisture, %", "14"],
  ["seed", "Number of the draw", "1"],
] as const;
type Said = { name: string; lines: string; truth: string; read: string };

/** Simulated instruments, to try the way of real ones: what they say is text that the same parsers read. */
export function StandIns() {
  const { workspace } = useHere();
  const trials = useTrials(workspace.id, { drawn: true, limit: 200 });
  const drawn = trials.data?.rows ?? [];
  const [chosen, setChosen] = useState("");
  const trial = drawn.find((item) => item.id === chosen) ?? drawn[0];
  return (
    <section aria-labelledby="standins">
      <h1 id="standins">Stand-ins</h1>
      <p className="muted">
        Simulated instruments whose truth is known. What they say goes the way of real files and lines; the simulated
        weather station stands above.
      </p>
      {!trial && <p className="muted">They need a trial whose strips are drawn.</p>}
      {trial && (
        <div className="sheet mt-2 p-3">
          <label>
            Trial
            <select className="entry" value={trial.id} onChange={(event) => setChosen(event.target.value)}>
              {drawn.map((item) => (
                <option key={item.id} value={item.id}>
                  {item.title}
                </option>
              ))}
            </select>
          </label>
          <Combine key={trial.id} trial={trial} writable={may(workspace, "record")} />
          <Lines trial={trial} />
        </div>
      )}
    </section>
  );
}

function Combine({ trial, writable }: { trial: Schemas["TrialRowOut"]; writable: boolean }) {
  const [asked, setAsked] = useState<Record<string, string>>(
    Object.fromEntries(COMBINE.map(([key, , text]) => [key, text])),
  );
  const [taken, setTaken] = useState(false);
  const [problem, setProblem] = useState("");
  const { save } = useSaving();
  const address = `/api/trials/${trial.id}/stand-ins/combine?${new URLSearchParams(asked)}`;

  async function read() {
    const id = crypto.randomUUID();
    try {
      await save(async () => {
        const answer = await fetch(address);
        if (!answer.ok) throw new Error(((await answer.json()) as { message: string }).message);
        const form = new FormData();
        form.append("file", await answer.blob(), "simulated-combine.csv");
        form.append("recorded_at", new Date().toISOString());
        return ask(
          client.POST("/api/trials/{trial_id}/yield-logs/{log_id}", {
            params: { path: { trial_id: trial.id, log_id: id } },
            body: form as never,
            bodySerializer: (body: unknown) => body as FormData,
          }),
        );
      });
      setTaken(true);
      setProblem("");
    } catch (error) {
      setTaken(false);
      setProblem(faultOf(error).message);
    }
  }
  return (
    <div className="mt-3">
      <h3>Combine that drives the strips</h3>
      <div className="grid grid-cols-2 gap-2">
        {COMBINE.map(([key, label]) => (
          <TextField
            key={key}
            label={label}
            inputMode="decimal"
            value={asked[key] ?? ""}
            onCommit={(text) => setAsked((now) => ({ ...now, [key]: text.replace(",", ".") }))}
          />
        ))}
      </div>
      <div className="mt-2 flex flex-wrap items-center gap-2">
        <a className="plain" href={address}>
          Save its log as CSV
        </a>
        {writable && (
          <button type="button" className="plain" onClick={() => void read()}>
            Take its log into the trial
          </button>
        )}
        {taken && (
          <Link className="worked" to={`/trials/${trial.id}/harvest?sheet=log`}>
            Look at it there
          </Link>
        )}
      </div>
      <p className="muted text-sm">
        It cuts what the loads say, or what is expected of the trial where nothing is weighed yet.
      </p>
      <Problem>{problem}</Problem>
    </div>
  );
}

/** Scale and meter: what they say line by line, what the parser makes of it, and what was true. */
function Lines({ trial }: { trial: Schemas["TrialRowOut"] }) {
  const [strip, setStrip] = useState("1");
  const [said, setSaid] = useState<Said | null>(null);
  const [problem, setProblem] = useState("");
  const path = { trial_id: trial.id };

  async function listen(instrument: "scale" | "meter") {
    const seed = 1 + (Date.now() % 100_000);
    try {
      const spoken =
        instrument === "meter"
          ? await ask(client.GET("/api/trials/{trial_id}/stand-ins/meter", { params: { path, query: { seed } } }))
          : await ask(
              client.GET("/api/trials/{trial_id}/stand-ins/scale", {
                params: { path, query: { seed, strip: Number(strip) } },
              }),
            );
      const result = await ask(
        client.POST("/api/trials/{trial_id}/instrument-lines", {
          params: { path },
          body: { instrument, lines: spoken.lines },
        }),
      );
      const name = instrument === "meter" ? "Moisture meter" : "Scale";
      setSaid({
        name,
        lines: spoken.lines,
        truth: spoken.truth,
        read: `${result.text} ${result.unit}, ${result.words}`,
      });
      setProblem("");
    } catch (error) {
      setProblem(faultOf(error).message);
    }
  }
  return (
    <div className="mt-3">
      <h3>Scale and moisture meter</h3>
      <div className="flex flex-wrap items-end gap-2">
        <div className="w-24">
          <TextField label="Strip" inputMode="numeric" value={strip} onCommit={setStrip} />
        </div>
        <button type="button" className="plain" onClick={() => void listen("scale")}>
          Weigh its load
        </button>
        <button type="button" className="plain" onClick={() => void listen("meter")}>
          Measure a sample
        </button>
      </div>
      {said && (
        <div className="mt-2">
          <p>
            <b>{said.name}</b> reads {said.read}; the truth was {said.truth}.
          </p>
          <pre className="mt-1 max-h-40 overflow-auto text-sm">{said.lines}</pre>
        </div>
      )}
      <Problem>{problem}</Problem>
    </div>
  );
}
