import type { Schemas, Trial } from "../../../api/client";
import { saveCsv } from "../../../ui/csv";
import { Stake } from "../../../ui/marks";
import { Worked } from "../../../ui/working";

type Analysis = Schemas["AnalysisOut"];

export function MeansTable({ analysis, trial, replicated }: { analysis: Analysis; trial: Trial; replicated: boolean }) {
  const position = (id: string) => trial.treatments.find((treatment) => treatment.id === id)?.position ?? 0;
  return (
    <section aria-label={`Means of ${analysis.response}`} className="mt-3">
      <table className="figures">
        <thead>
          <tr>
            <th>Treatment</th>
            <th className="num">Strips</th>
            <th className="num">Mean {analysis.response}</th>
            {replicated && (
              <>
                <th className="num">Standard error</th>
                <th className="num">{analysis.level_pct.toFixed(0)} % interval</th>
                {analysis.means.some((mean) => mean.letters) && <th>Letters</th>}
              </>
            )}
          </tr>
        </thead>
        <tbody>
          {analysis.means.map((mean) => (
            <tr key={mean.treatment_id}>
              <td>
                <Stake letter={mean.letter} position={position(mean.treatment_id)} /> {mean.name}
                {mean.is_control && <span className="muted"> control</span>}
              </td>
              <td className="num">{mean.n}</td>
              <td className="num font-semibold">
                <Worked working={mean.working}>{mean.mean.text}</Worked>
              </td>
              {replicated && (
                <>
                  <td className="num">{mean.se?.text}</td>
                  <td className="num">{mean.lower && mean.upper && `${mean.lower.text} to ${mean.upper.text}`}</td>
                  {analysis.means.some((item) => item.letters) && <td>{mean.letters}</td>}
                </>
              )}
            </tr>
          ))}
        </tbody>
      </table>
      {replicated && (
        <p className="muted mt-1 text-sm">
          {analysis.letters_note}
          {analysis.factored && "Means of the combinations, with the errors of the strips they lie in."}
          {analysis.sed && ` Standard error of a difference ${analysis.sed.text}.`}
          {analysis.cv_pct && ` Spread between strips (CV) ${analysis.cv_pct}.`}
        </p>
      )}
      <button
        type="button"
        className="plain no-print mt-1"
        onClick={() =>
          saveCsv("means.csv", [
            ["treatment", "name", "strips", `mean ${analysis.unit}`, "se", "lower", "upper", "letters"],
            ...analysis.means.map((mean) => [
              mean.letter,
              mean.name,
              mean.n,
              mean.mean.value,
              mean.se?.value ?? null,
              mean.lower?.value ?? null,
              mean.upper?.value ?? null,
              mean.letters,
            ]),
          ])
        }
      >
        Save as CSV
      </button>
    </section>
  );
}

export function DifferenceTable({ analysis }: { analysis: Analysis }) {
  if (!analysis.differences.length) return null;
  return (
    <section aria-label="Comparisons" className="mt-3">
      <h3>Each comparison</h3>
      <ul className="divide-y divide-base-300">
        {analysis.differences.map((row) => (
          <li key={row.key} className="py-1.5">
            <p>
              {row.sentence} <Worked working={row.working}>The working</Worked>
            </p>
            {row.call && (
              <p className="muted text-sm">
                {row.call_words}
                {row.chances && `; ${row.chances}`}
                {row.p && `; p ${row.p}`}
                {row.p_adjusted && row.p_adjusted !== row.p && `, adjusted ${row.p_adjusted}`}.
              </p>
            )}
            {row.settle && <p>{row.settle}</p>}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Sums of squares against one error, or, where strips lie in strips, each term against its own. */
export function AnovaTable({ analysis }: { analysis: Analysis }) {
  const { factored } = analysis;
  const columns = factored ? ["df", "df of its error"] : ["df", "Sum of squares", "Mean square"];
  return (
    <section aria-label="Analysis of variance" className="mt-3">
      <h3>
        {factored
          ? "Tests, each against its own error"
          : `Analysis of variance${analysis.anova_unit && `, ${analysis.anova_unit}`}`}
      </h3>
      <table className="figures max-w-2xl">
        <thead>
          <tr>
            <th>{factored ? "Term" : "Source"}</th>
            {[...columns, "F", "p"].map((column) => (
              <th key={column} className="num">
                {column}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {analysis.anova.map((row) => (
            <tr key={row.source}>
              <td>{row.source}</td>
              <td className="num">{row.df}</td>
              {factored ? (
                <td className="num">{row.den_df}</td>
              ) : (
                <>
                  <td className="num">{row.ss}</td>
                  <td className="num">{row.ms}</td>
                </>
              )}
              <td className="num">
                <Worked working={row.working}>{row.f}</Worked>
              </td>
              <td className="num">{row.p}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
