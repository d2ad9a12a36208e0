import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { saveCsv } from "../../../ui/csv";
import { Stake } from "../../../ui/marks";
import { Worked } from "../../../ui/working";
import { writtenDay } from "../../../ui/writing";
import { JoinedDays } from "../JoinedDays";
import type { Stage } from "../TrialFrame";
import { StripCounts } from "./StripCounts";

/** The days of a visit, and how old the strips were. */
function visitDays(visit: Schemas["VisitOut"]) {
  const days =
    visit.first === visit.last ? writtenDay(visit.first) : `${writtenDay(visit.first)} to ${writtenDay(visit.last)}`;
  if (visit.days_from_sowing === null) return days;
  const most = visit.days_from_sowing_most;
  return `${days}, day ${visit.days_from_sowing}${most !== null && most !== visit.days_from_sowing ? ` to ${most}` : ""}`;
}

/** Days further apart are not offered to be joined. */
const NEAR_DAYS = 7;

/** The visit that is shown and the one before it: what a person would join. */
function neighbours(stand: Schemas["StandOut"]) {
  const place = stand.visits.findIndex((visit) => visit.number === stand.visit);
  const before = stand.visits[Math.max(place - 1, 0)];
  const shown = stand.visits[place];
  const near = before && shown && (Date.parse(shown.first) - Date.parse(before.last)) / 86_400_000 <= NEAR_DAYS;
  return near ? { first: before.first, last: shown.last } : undefined;
}

const pct = (value: number | null) => (value === null ? "" : `${value.toFixed(0)} %`);
type Props = { stage: Stage; stand: Schemas["StandOut"]; visit: number | null; setVisit: (visit: number) => void };

/** The stand at one visit: by treatment first, then strip by strip. */
export function Counts({ stage, stand, visit, setVisit }: Props) {
  const { trial, writable, selected } = stage;
  const chosen = stand.strips.find((strip) => strip.strip_id === selected?.id);
  const tapes = stand.tapes;
  return (
    <>
      <div className="flex flex-wrap items-center gap-4">
        {writable && trial.strips.length > 0 && (
          <Link
            className="act inline-block"
            to={`/trials/${trial.id}/fieldbook${selected ? `?strip=${selected.order}` : ""}`}
          >
            Count in the field book
          </Link>
        )}
        {stand.visits.length > 1 && (
          <label className="flex min-w-0 items-center gap-1">
            Visit
            <select
              className="entry w-auto min-w-0"
              value={visit ?? stand.visit ?? ""}
              onChange={(event) => setVisit(Number(event.target.value))}
            >
              {stand.visits.map((item) => (
                <option key={item.number} value={item.number}>
                  {visitDays(item)}: {item.counts} counts on {item.strips} strips
                </option>
              ))}
            </select>
          </label>
        )}
        {tapes.length > 0 && (
          <details>
            <summary className="cursor-pointer underline">Length of row to count</summary>
            {tapes.map((tape) => (
              <p key={tape.row_spacing + tape.share}>
                {tape.row_spacing} rows, {tape.rows === 1 ? "one" : `${tape.rows} at once`}: {tape.share} is{" "}
                <Worked working={tape.working}>{tape.exact}</Worked>, on the tape {tape.tape}.
              </p>
            ))}
          </details>
        )}
      </div>
      {stand.visits.length > 0 && (
        <JoinedDays
          trialId={trial.id}
          writable={writable && stand.visits.length > 1}
          task="count"
          days={neighbours(stand)}
          leftOut={stand.left_out}
        />
      )}
      {stand.visits.length > 0 && <ByTreatment trial={trial} stand={stand} />}
      {chosen && <StripCounts {...stage} stand={chosen} visit={stand.visit} />}
      <Strips {...stage} stand={stand} />
    </>
  );
}

function ByTreatment({ trial, stand }: Pick<Stage, "trial"> & { stand: Schemas["StandOut"] }) {
  return (
    <table aria-label="Stand by treatment" className="figures mt-2 max-w-3xl">
      <thead>
        <tr>
          <th>Treatment</th>
          <th className="num">Mean stand</th>
          <th className="num">Of the seed sown</th>
          <th className="num">Of live seed</th>
          <th className="num">Counts</th>
        </tr>
      </thead>
      <tbody>
        {stand.treatments.map((treatmentStand) => {
          const treatment = trial.treatments.find((other) => other.id === treatmentStand.treatment_id);
          return (
            <tr key={treatmentStand.treatment_id}>
              <td>
                {treatment && <Stake letter={treatment.letter} position={treatment.position} />} {treatmentStand.name}
              </td>
              <td className="num">
                {treatmentStand.stand ? (
                  <Worked working={treatmentStand.working}>{treatmentStand.stand.text}</Worked>
                ) : (
                  "none"
                )}
              </td>
              <td className="num">
                {treatmentStand.share_pct !== null && (
                  <Worked working={treatmentStand.working}>{pct(treatmentStand.share_pct)}</Worked>
                )}
              </td>
              <td className="num">{pct(treatmentStand.live_share_pct)}</td>
              <td className="num">
                {treatmentStand.counts} on {treatmentStand.strips} {treatmentStand.strips === 1 ? "strip" : "strips"}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
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
            const treatment = trial.treatments.find((item) => item.id === strip?.received_id);
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
                <td className="num">{row.number || ""}</td>
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
              trial.treatments.find((treatment) => treatment.id === of(row.strip_id)?.received_id)?.letter ?? "",
              row.number,
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
