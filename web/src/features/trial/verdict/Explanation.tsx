import { useExplanation } from "../../../api/queries";
import { Waiting } from "../../../ui/Waiting";
import { Caution } from "../Columns";

/** What explains the yields: their parts, and what runs through the stand. It never adjusts a comparison. */
export function Explanation({ trialId }: { trialId: string }) {
  const query = useExplanation(trialId);
  if (!query.data) return <Waiting query={query} />;
  const result = query.data;
  if (result.problem) return <p className="mt-2">{result.problem}</p>;
  return (
    <>
      <Caution>{result.caution}</Caution>
      {result.by.map((by) => (
        <section key={by.title} aria-label={by.title} className="mt-3">
          <h3>{by.title}</h3>
          <p>{by.slope}</p>
          <ul>
            {by.paths.map((path) => (
              <li key={path.treatment}>{path.sentence}</li>
            ))}
          </ul>
          <table className="figures mt-2 max-w-3xl">
            <caption className="text-left font-semibold">Against {by.against}; the parts multiply to the yield</caption>
            <thead>
              <tr>
                <th>Treatment</th>
                {by.parts.map((part) => (
                  <th key={part.name} className="num first-letter:uppercase">
                    {part.name}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {by.paths.map((path, row) => (
                <tr key={path.treatment}>
                  <td>{path.treatment}</td>
                  {by.parts.map((part) => (
                    <td key={part.name} className="num">
                      {part.shares[row]?.text}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      ))}
    </>
  );
}
