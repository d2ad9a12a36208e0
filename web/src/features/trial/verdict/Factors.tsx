import type { Schemas } from "../../../api/client";
import { InteractionPlot } from "../../../ui/charts/InteractionPlot";
import { Worked } from "../../../ui/working";

type Analysis = Schemas["AnalysisOut"];

/** Interactions first: whether one factor's effect depends on another decides which means may be read. */
export function Interactions({ analysis }: { analysis: Analysis }) {
  return (
    <>
      {analysis.interactions.map((interaction) => (
        <section key={interaction.title} aria-label={`Interaction of ${interaction.title}`} className="mt-3">
          <h3 className="first-letter:uppercase">{interaction.title}</h3>
          <p>{interaction.words}</p>
          <InteractionPlot interaction={interaction} unit={`${analysis.response}, ${analysis.unit}`} />
        </section>
      ))}
    </>
  );
}

export function FactorTables({ analysis }: { analysis: Analysis }) {
  return (
    <>
      {analysis.tables.map((table) => (
        <section key={table.title} aria-label={table.title} className="mt-3">
          <h3>{table.title}</h3>
          {table.note && <p className="caution">{table.note}</p>}
          <table className="figures max-w-2xl">
            <thead>
              <tr>
                <th>Level</th>
                <th className="num">Strips</th>
                <th className="num">Mean {analysis.response}</th>
                <th className="num">Standard error</th>
                <th className="num">{analysis.level_pct.toFixed(0)} % interval</th>
                {table.rows.some((row) => row.letters) && <th>Letters</th>}
              </tr>
            </thead>
            <tbody>
              {table.rows.map((row) => (
                <tr key={row.label}>
                  <td>{row.label}</td>
                  <td className="num">{row.n}</td>
                  <td className="num font-semibold">
                    <Worked working={row.working}>{row.mean.text}</Worked>
                  </td>
                  <td className="num">{row.se.text}</td>
                  <td className="num">
                    {row.lower.text} to {row.upper.text}
                  </td>
                  {table.rows.some((factorMean) => factorMean.letters) && <td>{row.letters}</td>}
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      ))}
    </>
  );
}

/** The classical table, one stratum a size of strip, and what the errors are. */
export function Strata({ analysis }: { analysis: Analysis }) {
  if (!analysis.factored) return null;
  return (
    <section aria-label="Errors" className="mt-3">
      <h3>Errors of the strips</h3>
      <p>
        {analysis.components.map((component) => `${component.name}: variance ${component.text}`).join("; ")} (
        {analysis.unit})².
      </p>
      <ul>
        {analysis.precision.map((named) => (
          <li key={named.name}>
            Standard error of a difference of {named.name}: {named.text}.
          </li>
        ))}
      </ul>
      {analysis.strata.length > 0 && (
        <details className="mt-1">
          <summary className="cursor-pointer underline">The classical table in error strata</summary>
          <table className="figures max-w-2xl">
            <thead>
              <tr>
                <th>Stratum</th>
                <th>Source</th>
                <th className="num">df</th>
                <th className="num">Sum of squares</th>
                <th className="num">Mean square</th>
                <th className="num">F</th>
                <th className="num">p</th>
              </tr>
            </thead>
            <tbody>
              {analysis.strata.map((row) => (
                <tr key={row.stratum + row.source}>
                  <td>{row.stratum === "Residual" ? "smallest strips" : row.stratum}</td>
                  <td>{row.source}</td>
                  <td className="num">{row.df}</td>
                  <td className="num">{row.ss}</td>
                  <td className="num">{row.ms}</td>
                  <td className="num">{row.f}</td>
                  <td className="num">{row.p}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </details>
      )}
    </section>
  );
}

export function Polynomials({ analysis }: { analysis: Analysis }) {
  return (
    <>
      {analysis.polynomials.map((polynomial) => (
        <details key={polynomial.factor} className="mt-2">
          <summary className="cursor-pointer underline">{polynomial.words}</summary>
          <ul>
            {polynomial.rows.map((row) => (
              <li key={row.name}>
                <span className="first-letter:uppercase">{row.name}</span>: {row.text}
              </li>
            ))}
          </ul>
        </details>
      ))}
    </>
  );
}
