import type { RowProblem, Schemas } from "../../api/client";
import type { Mapping } from "./ImportMapping";

type Props = { preview: Schemas["PreviewOut"] | null; mapping: Mapping | null; problems: RowProblem[] };

/** The first rows as they were read, with what each column is taken for; or what is wrong, row by row. */
export function ImportPreview({ preview, mapping, problems }: Props) {
  if (problems.length) {
    return (
      <section aria-labelledby="problems">
        <h2 id="problems">What needs mending, by row of the file</h2>
        <table className="figures mt-2">
          <thead>
            <tr>
              <th className="num">Row</th>
              <th>Column</th>
              <th>What is wrong</th>
            </tr>
          </thead>
          <tbody>
            {problems.map((problem) => (
              <tr key={`${problem.row}-${problem.field}`}>
                <td className="num">{problem.row}</td>
                <td>{problem.field}</td>
                <td>{problem.message}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
    );
  }
  if (!preview) {
    return (
      <section className="sheet self-start p-4">
        <h2>How it goes</h2>
        <ol className="mt-2 list-decimal space-y-1 pl-5">
          <li>Choose the file; its first rows show here as they were read.</li>
          <li>Say which column is the block, the treatment and the yield, and in what unit.</li>
          <li>All rows are taken in, or none: what is wrong is listed by row.</li>
          <li>The verdict opens: means with intervals, the analysis of variance, the pairs.</li>
        </ol>
      </section>
    );
  }
  const role = (column: string) =>
    column === mapping?.block
      ? "block"
      : column === mapping?.treatment
        ? "treatment"
        : column === mapping?.response
          ? "yield"
          : "";
  return (
    <section aria-labelledby="rows" className="min-w-0">
      <h2 id="rows">
        {preview.row_count} rows read; the first {preview.rows.length}
      </h2>
      <div className="mt-2 overflow-x-auto">
        <table className="figures">
          <thead>
            <tr>
              {preview.columns.map((column) => (
                <th key={column}>
                  {column}
                  <span className="block h-5 text-sm font-normal">{role(column) && `→ ${role(column)}`}</span>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {preview.rows.map((row, place) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: rows of a file have no other name than their place
              <tr key={place}>
                {row.map((cell, column) => (
                  <td key={preview.columns[column]}>{cell}</td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
