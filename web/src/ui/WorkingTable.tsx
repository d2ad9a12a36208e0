/** The choices behind an answer, first row the heading; it scrolls in its own box. */
import { Scroll } from "./Scroll";

export function WorkingTable({ rows }: { rows: string[][] }) {
  const [heading, ...body] = rows;
  if (!heading) return null;
  return (
    <Scroll label="All choices" height="max-h-80 mt-2">
      <table className="figures">
        <thead>
          <tr>
            {heading.map((name) => (
              <th key={name} className="num">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {body.map((row) => (
            <tr key={row.join("|")}>
              {row.map((text, place) => (
                <td key={heading[place]} className="num">
                  {text}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </Scroll>
  );
}
