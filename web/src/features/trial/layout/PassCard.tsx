import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type Schemas } from "../../../api/client";
import { useMachines } from "../../../api/queries";
import { Problem } from "../../../ui/Problem";
import { Scroll } from "../../../ui/Scroll";
import { Caution } from "../Columns";
import type { Stage } from "../TrialFrame";
import { PlotGrid } from "./PlotGrid";

type Driving = Schemas["PassCardOut"]["driving"];
export type PassChoice = { driving: Driving; reserve: string };

type Props = { stage: Stage; choice: PassChoice; choose: (choice: PassChoice) => void };

/** Plots shorter than this are likely planted by hand. */
const SHORT_M = 40;

/** What the driver does, what must be in the hopper, and where the flags stand. */
export function PassCard({ stage, choice, choose }: Props) {
  const { trial } = stage;
  const [passes, setPasses] = useState("");
  const [sets, setSets] = useState("");
  const [machine, setMachine] = useState("");
  const machines = useMachines(trial.workspace_id);
  const query = {
    ...(sets ? { sets: Number(sets) } : {}),
    ...(machine ? { machine } : {}),
    driving: choice.driving,
    reserve_pct: Number(choice.reserve) || 0,
    ...(/^\d+$/.test(passes.trim()) ? { passes: Number(passes) } : {}),
  };
  const card = useQuery({
    queryKey: ["passes", trial.id, trial.version, query],
    enabled: trial.strips.length > 0,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      ask(client.GET("/api/trials/{trial_id}/pass-card", { params: { path: { trial_id: trial.id }, query } })),
  });
  const result = card.data;
  const place = trial.strips[0]?.place;
  const short = place?.length === 4 && (place[3] ?? 0) - (place[1] ?? 0) < SHORT_M;
  if (!trial.strips.length) return <p className="muted">Draw the strips first; the card follows from them.</p>;
  return (
    <section aria-label="Pass card">
      <div className="asked mb-2">
        <label>
          Driving
          <select
            className="entry"
            value={choice.driving}
            onChange={(event) => choose({ ...choice, driving: event.target.value as Driving })}
          >
            <option value="as_laid">in field order</option>
            <option value="fewest_changes">fewest changes of setting</option>
          </select>
        </label>
        <label>
          Machine
          <select className="entry" value={machine} onChange={(event) => setMachine(event.target.value)}>
            <option value="">not said</option>
            {machines.data?.map((item) => (
              <option key={item.id} value={item.id}>
                {item.name}
              </option>
            ))}
          </select>
        </label>
        {trial.factors.length > 1 && (
          <label>
            It sets
            <select className="entry" value={sets} onChange={(event) => setSets(event.target.value)}>
              <option value="">everything</option>
              {trial.factors.map((factor, place) => (
                <option key={factor.title} value={place}>
                  {factor.title.toLowerCase()}
                </option>
              ))}
            </select>
          </label>
        )}
        <label>
          Passes in a strip
          <input
            className="entry w-24"
            inputMode="numeric"
            placeholder={result ? String(result.passes_a_strip) : ""}
            value={passes}
            onChange={(event) => setPasses(event.target.value)}
          />
        </label>
        <label>
          Seed in reserve, %
          <input
            className="entry w-24"
            inputMode="decimal"
            value={choice.reserve}
            onChange={(event) => choose({ ...choice, reserve: event.target.value })}
          />
        </label>
      </div>
      <Problem>{card.error?.message}</Problem>
      {result && (
        <>
          <p className="border-l-4 border-base-content pl-3">
            {result.machine && `${result.machine}: `}
            {result.changes} changes of setting, {result.across} driven across without work. In field order{" "}
            {result.changes_as_laid} and {result.across_as_laid}; with fewest changes {result.changes_fewest} and{" "}
            {result.across_fewest}. What each strip gets stays as drawn.
          </p>
          <div className="mt-2 grid grid-cols-[minmax(0,1fr)] gap-5 xl:grid-cols-2">
            <Passes passCard={result} />
            <div className="min-w-0">
              <SeedList passCard={result} />
              <Stakes passCard={result} />
            </div>
          </div>
          {short && <PlotGrid stage={stage} />}
          <div className="mt-3 space-y-1.5">
            {result.cautions.map((caution) => (
              <Caution key={caution}>{caution}</Caution>
            ))}
          </div>
        </>
      )}
    </section>
  );
}

function Passes({ passCard }: { passCard: Schemas["PassCardOut"] }) {
  return (
    <Scroll label="All passes in turn" height="max-h-96">
      <table className="figures">
        <thead>
          <tr>
            <th className="num">Pass</th>
            <th className="num">Strip</th>
            <th>Way</th>
            <th>Setting</th>
          </tr>
        </thead>
        <tbody>
          {passCard.passes.map((onePass) => (
            <tr
              key={`${onePass.number}-${onePass.strip}`}
              className={onePass.change ? "border-t-2 border-t-base-content" : ""}
            >
              <td className="num">{onePass.number}</td>
              <td className="num">{onePass.strip}</td>
              <td className="whitespace-nowrap">{onePass.direction === "up" ? "↑ up" : "↓ back"}</td>
              <td>
                {onePass.change && <b>change: </b>}
                {onePass.letter}, {onePass.setting}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Scroll>
  );
}

function SeedList({ passCard }: { passCard: Schemas["PassCardOut"] }) {
  if (!passCard.seed.length)
    return <p className="muted">Seed needed shows once the seeding rate of each treatment is known.</p>;
  return (
    <>
      <h3>Seed needed, reserve included: {passCard.seed_total}</h3>
      <table className="figures">
        <thead>
          <tr>
            <th>Treatment</th>
            <th className="num">Area</th>
            <th className="num">Seeds</th>
            <th className="num">Weight</th>
            <th className="num">Bags</th>
          </tr>
        </thead>
        <tbody>
          {passCard.seed.map((seed) => (
            <tr key={seed.letter}>
              <td>
                {seed.letter}, {seed.name}
              </td>
              <td className="num">{seed.area}</td>
              <td className="num">{seed.seeds}</td>
              <td className="num">{seed.weight ?? "–"}</td>
              <td className="num">{seed.bags ?? "–"}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

function Stakes({ passCard }: { passCard: Schemas["PassCardOut"] }) {
  if (!passCard.stakes.length) return null;
  return (
    <>
      <h3 className="mt-3">Stakes, from the outer corner of the first strip</h3>
      <Scroll label="Stakes of all strips" height="max-h-56">
        <table className="figures">
          <thead>
            <tr>
              <th className="num">Strip</th>
              <th>Side</th>
              <th className="num">Across</th>
              <th className="num">Up</th>
              <th>Latitude, longitude</th>
            </tr>
          </thead>
          <tbody>
            {passCard.stakes.map((stake) => (
              <tr key={`${stake.strip}${stake.side}`}>
                <td className="num">{stake.strip}</td>
                <td>{stake.side}</td>
                <td className="num">{stake.across}</td>
                <td className="num">{stake.up}</td>
                <td>{stake.position}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Scroll>
    </>
  );
}
