import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { ask, client, type Schemas } from "../../../api/client";
import { useSeries } from "../../../api/queries";
import { ForestPlot } from "../../../ui/charts/ForestPlot";
import { Waiting } from "../../../ui/Waiting";
import { Caution } from "../Columns";

type Found = Schemas["SeriesOut"];

/** The same question over years: each site-year, the whole, and the whole without each. */
export function Series({ trialId, writable }: { trialId: string; writable: boolean }) {
  const [response, setResponse] = useState<Found["response"]>("yield");
  const query = useSeries(trialId, response);
  return (
    <>
      <fieldset className="no-print flex items-center gap-4">
        <legend className="sr-only">What is combined</legend>
        {(
          [
            ["yield", "Yield over years"],
            ["net_return", "Net return over years"],
          ] as const
        ).map(([value, label]) => (
          <label key={value} className="flex items-center gap-1.5">
            <input type="radio" name="combined" checked={response === value} onChange={() => setResponse(value)} />
            {label}
          </label>
        ))}
      </fieldset>
      {query.data ? <Combined series={query.data} trialId={trialId} writable={writable} /> : <Waiting query={query} />}
    </>
  );
}

function Combined({ series, trialId, writable }: { series: Found; trialId: string; writable: boolean }) {
  if (series.problem) {
    return (
      <>
        <p className="mt-2">{series.problem}</p>
        {writable && <AddYear trialId={trialId} />}
      </>
    );
  }
  return (
    <section aria-label="Series" className="mt-2">
      <h3>{series.name}</h3>
      <p className="text-lg" data-series>
        {series.sentence}
      </p>
      <p>{series.held}</p>
      {series.remarks.map((remark) => (
        <Caution key={remark}>{remark}</Caution>
      ))}
      {series.combined.map((whole) => (
        <figure key={whole.name} className="mt-2">
          <figcaption className="font-semibold">
            {whole.name}
            {series.against && ` against ${series.against}`}, {series.level_pct.toFixed(0)} % intervals
          </figcaption>
          <ForestPlot
            rows={rowsOf(series, whole.name)}
            unit={series.unit}
            name={whole.name}
            of={series.response === "yield" ? "yield" : "net return"}
          />
        </figure>
      ))}
      {series.without.length > 0 && <Without series={series} />}
      <table className="figures mt-2 max-w-2xl">
        <thead>
          <tr>
            <th>Site-year</th>
            <th className="num">Strips</th>
            <th>Verdict</th>
          </tr>
        </thead>
        <tbody>
          {series.alone.map((row) => (
            <tr key={row.label}>
              <td>{row.label}</td>
              <td className="num">{row.n}</td>
              <td>{row.trial_id && <Link to={`/trials/${row.trial_id}/verdict`}>its own verdict</Link>}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {writable && <AddYear trialId={trialId} />}
      <p className="mt-2">{series.method}</p>
      <p className="muted">{series.components.map((component) => `${component.name}: ${component.text}`).join("; ")}</p>
    </section>
  );
}

function rowsOf(series: Found, name: string) {
  const alone = series.alone.flatMap((row) => {
    const own = row.differences.find((difference) => difference.name === name);
    return own ? [{ label: row.label, below: `${row.n} strips`, whole: false, seriesDifference: own }] : [];
  });
  const whole = series.combined.find((seriesDifference) => seriesDifference.name === name);
  return whole ? [...alone, { label: "Together", below: "", whole: true, seriesDifference: whole }] : alone;
}

function Without({ series }: { series: Found }) {
  return (
    <section aria-label="Left out" className="mt-2">
      <h3>Together, each site-year left out once</h3>
      <table className="figures max-w-2xl">
        <thead>
          <tr>
            <th>Left out</th>
            {series.combined.map((seriesDifference) => (
              <th key={seriesDifference.name} className="num">
                {seriesDifference.name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {series.without.map((row) => (
            <tr key={row.label}>
              <td className="whitespace-nowrap">{row.label}</td>
              {row.differences.map((difference) => (
                <td key={difference.name} className="num">
                  {difference.estimate.text} ({difference.lower?.text} to {difference.upper?.text}),{" "}
                  {difference.call_words}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** The same question next year: a new trial with what was asked, to be laid out anew. */
function AddYear({ trialId }: { trialId: string }) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [problem, setProblem] = useState("");
  async function add() {
    setProblem("");
    try {
      const result = await ask(
        client.POST("/api/trials/{trial_id}/next-year", { params: { path: { trial_id: trialId } } }),
      );
      await queries.invalidateQueries();
      void navigate(`/trials/${result.id}/question`);
    } catch (error) {
      setProblem(error instanceof Error ? error.message : "The year could not be added.");
    }
  }
  return (
    <div className="no-print mt-2">
      <button type="button" className="plain min-h-12" onClick={() => void add()}>
        Add the next year
      </button>
      {problem && (
        <p role="alert" className="text-error">
          {problem}
        </p>
      )}
    </div>
  );
}
