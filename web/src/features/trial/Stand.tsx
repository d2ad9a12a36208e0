import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useStand } from "../../api/queries";
import { saveCsv } from "../../ui/csv";
import { Stake } from "../../ui/marks";
import { Waiting } from "../../ui/Waiting";
import { Worked } from "../../ui/working";
import { Caution, Columns } from "./Columns";
import { StripCounts } from "./StripCounts";
import { type Stage, useStage } from "./TrialFrame";

const pct = (value: number | null) => (value === null ? "" : `${value.toFixed(0)} %`);

export function Stand() {
  const stage = useStage();
  const { trial, writable, selected } = stage;
  const stand = useStand(trial.id);
  if (!stand.data) return <Waiting query={stand} />;
  const standing = trial.strips.filter((strip) => !strip.lost);
  const counted = standing.filter((strip) => strip.counts > 0).length;
  const chosen = stand.data.strips.find((strip) => strip.strip_id === selected?.id);
  return (
    <Columns why={<Why stand={stand.data} />}>
      <section aria-label="Stand by treatment" className="border-l-4 border-base-content pl-3">
        <div className="flex flex-wrap items-baseline gap-4">
          <h2>{counted ? `${counted} of ${standing.length} strips counted` : "No strip counted yet"}</h2>
          {writable && trial.strips.length > 0 && (
            <Link
              className="act inline-block"
              to={`/trials/${trial.id}/fieldbook${selected ? `?strip=${selected.order}` : ""}`}
            >
              Count in the field book
            </Link>
          )}
        </div>
        {counted > 0 && (
          <table className="figures mt-1 max-w-2xl">
            <thead>
              <tr>
                <th>Treatment</th>
                <th className="num">Mean stand</th>
                <th className="num">Of the seed sown</th>
                <th className="num">Counts</th>
              </tr>
            </thead>
            <tbody>
              {stand.data.treatments.map((one) => {
                const treatment = trial.treatments.find((other) => other.id === one.treatment_id);
                return (
                  <tr key={one.treatment_id}>
                    <td>
                      {treatment && <Stake letter={treatment.letter} position={treatment.position} />} {one.name}
                    </td>
                    <td className="num">
                      {one.stand ? <Worked working={one.working}>{one.stand.text}</Worked> : "none"}
                    </td>
                    <td className="num">
                      {one.share_pct !== null && <Worked working={one.working}>{pct(one.share_pct)}</Worked>}
                    </td>
                    <td className="num">{one.counts}</td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        )}
      </section>
      {chosen && <StripCounts {...stage} stand={chosen} />}
      <Strips {...stage} stand={stand.data} />
    </Columns>
  );
}

function Strips({ trial, select, stand }: Stage & { stand: Schemas["StandOut"] }) {
  if (!trial.strips.length) return <p className="muted mt-3">There are strips to count once the layout is drawn.</p>;
  const of = (id: string) => trial.strips.find((strip) => strip.id === id);
  return (
    <section aria-label="Stand by strip" className="mt-4">
      <table className="figures">
        <thead>
          <tr>
            <th className="num">Strip</th>
            <th>Treatment</th>
            <th className="num">Counts</th>
            <th className="num">Mean stand, {stand.level_pct.toFixed(0)} % interval</th>
            <th className="num">Within</th>
            <th className="num">More for ±{stand.wanted_pct.toFixed(0)} %</th>
            <th className="num">Of the seed</th>
          </tr>
        </thead>
        <tbody>
          {stand.strips.map((row) => {
            const strip = of(row.strip_id);
            const treatment = trial.treatments.find((one) => one.id === strip?.received_id);
            if (!strip) return null;
            return (
              <tr key={row.strip_id}>
                <td className="num">
                  <button type="button" className="underline" onClick={() => select(strip)}>
                    {strip.order}
                  </button>
                </td>
                <td>
                  {treatment && <Stake letter={treatment.letter} position={treatment.position} />}{" "}
                  {strip.lost && "lost"}
                </td>
                <td className="num">{row.counts.length || ""}</td>
                <td className="num">
                  {row.precision && (
                    <Worked working={row.precision.working}>
                      {row.precision.mean.text}
                      {row.precision.half_width && ` ± ${row.precision.half_width.text}`}
                    </Worked>
                  )}
                </td>
                <td className="num">
                  {row.precision?.share_pct != null && `±${row.precision.share_pct.toFixed(1)} %`}
                </td>
                <td className="num">{row.precision?.more ?? ""}</td>
                <td className="num">
                  {row.precision && row.share_pct !== null && (
                    <Worked working={row.precision.working}>{pct(row.share_pct)}</Worked>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <button
        type="button"
        className="plain no-print mt-2"
        onClick={() =>
          saveCsv("stand.csv", [
            ["strip", "block", "treatment", "counts", "mean", "half width", "percent of seed"],
            ...stand.strips.map((row) => [
              of(row.strip_id)?.order ?? "",
              of(row.strip_id)?.block_name ?? "",
              trial.treatments.find((one) => one.id === of(row.strip_id)?.received_id)?.letter ?? "",
              row.counts.length,
              row.precision?.mean.text ?? "",
              row.precision?.half_width?.text ?? "",
              row.share_pct?.toFixed(1) ?? "",
            ]),
          ])
        }
      >
        Save as CSV
      </button>
    </section>
  );
}

function Why({ stand }: { stand: Schemas["StandOut"] }) {
  return (
    <>
      {stand.tapes.length > 0 && (
        <div className="sheet p-2">
          <h3>Length of row to count</h3>
          {stand.tapes.map((tape) => (
            <p key={tape.row_spacing + tape.share}>
              {tape.row_spacing} rows, {tape.rows === 1 ? "one" : `${tape.rows} at once`}: {tape.share} is{" "}
              <Worked working={tape.working}>{tape.exact}</Worked>, on the tape {tape.tape}.
            </p>
          ))}
        </div>
      )}
      <p>
        Go where the book says, not where the stand looks typical: the eye picks good spots. The interval covers how
        much the counts on one strip vary; more counts make it narrower, looking harder does not.
      </p>
      <p>
        Percent of seed sown is plants counted over seeds sown on the same area: germination, drilling and losses
        together.
      </p>
      <Caution>Mind overhead lines and the re-entry time on the label of anything sprayed.</Caution>
    </>
  );
}
