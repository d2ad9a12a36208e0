import { Link } from "react-router";
import type { RecordKind, Schemas } from "../../../api/client";
import { useReadings } from "../../../api/queries";
import { saveCsv } from "../../../ui/csv";
import type { Stage } from "../TrialFrame";
import { VoidRecord } from "../VoidRecord";
import { SummaryTable } from "./SummaryTable";

type Props = { stage: Stage; scouting: Schemas["ScoutingOut"] };

/** What was measured: by treatment, then the values of the strip that is selected. */
export function Measured({ stage, scouting }: Props) {
  const { trial, writable, selected } = stage;
  const summaries = scouting.summaries.filter((one) => !one.judged);
  const values = scouting.strips.find((one) => one.strip_id === selected?.id)?.measures ?? [];
  const names = new Map(scouting.measured.map((one) => [one.key, one.name]));
  const all = scouting.strips.flatMap((strip) => strip.measures);
  return (
    <>
      {writable && trial.strips.length > 0 && (
        <Link
          className="act inline-block"
          to={`/trials/${trial.id}/fieldbook?task=measure${selected ? `&strip=${selected.order}` : ""}`}
        >
          Measure in the field book
        </Link>
      )}
      <Readings stage={stage} />
      {!summaries.length && (
        <p className="muted mt-2">
          Nothing measured yet: heights, stems, ground covered, weeds by kind, pests and disease on plants, lodging.
        </p>
      )}
      {summaries.map((one) => (
        <SummaryTable key={one.trait + one.subject} trial={trial} summary={one} />
      ))}
      {values.length > 0 && (
        <section aria-label={`Values of strip ${selected?.order}`} className="sheet mt-4 p-2">
          <h3>Values of strip {selected?.order}</h3>
          <ul>
            {values.map((one) => (
              <li key={one.id} className="flex flex-wrap items-center gap-x-3 border-b border-base-300 py-1">
                <span>
                  {names.get(one.trait)}
                  {one.subject && `, ${one.subject}`}: <span className="font-semibold">{one.shown.text}</span>
                </span>
                <span className="muted text-sm">
                  typed {one.value.text} {one.value.unit}
                  {one.sample_plants !== null && ` on ${one.sample_plants} plants`}
                  {one.area.shown && ` in ${one.area.shown}`}, {one.recorded_by}
                </span>
                {one.questions.map((question) => (
                  <span key={question.code} className="basis-full text-sm font-medium">
                    ? {question.text}
                  </span>
                ))}
                {writable && <VoidRecord trialId={trial.id} kind="plant-measure" record={one} what={one.shown.text} />}
              </li>
            ))}
          </ul>
        </section>
      )}
      {all.length > 0 && (
        <button
          type="button"
          className="plain no-print mt-2"
          onClick={() =>
            saveCsv("measured.csv", [
              ["strip", "trait", "subject", "value", "typed", "unit", "plants", "at", "by"],
              ...all.map((one) => [
                trial.strips.find((strip) => strip.id === one.strip_id)?.order ?? "",
                names.get(one.trait) ?? one.trait,
                one.subject,
                one.shown.text,
                one.value.text,
                one.value.unit,
                one.sample_plants,
                one.recorded_at,
                one.recorded_by,
              ]),
            ])
          }
        >
          Save as CSV
        </button>
      )}
    </>
  );
}

/** Readings of every kind: by treatment, then those of the strip that is selected. Nothing where there are none. */
function Readings({ stage }: { stage: Stage }) {
  const { trial, writable, selected } = stage;
  const readings = useReadings(trial.id).data;
  const values = readings?.strips.find((one) => one.strip_id === selected?.id)?.readings ?? [];
  return (
    <>
      {readings?.summaries.map((one) => (
        <SummaryTable key={one.trait + one.subject} trial={trial} summary={one} />
      ))}
      {values.length > 0 && (
        <section aria-label={`Readings of strip ${selected?.order}`} className="sheet mt-4 p-2">
          <h3>Readings of strip {selected?.order}</h3>
          <ul>
            {values.map((one) => (
              <li key={one.id} className="flex flex-wrap items-center gap-x-3 border-b border-base-300 py-1">
                <span className="font-semibold">{one.text}</span>
                <span className="muted text-sm">
                  {one.recorded_by}
                  {one.note && `, ${one.note}`}
                </span>
                {one.questions.map((question) => (
                  <span key={question.code} className="basis-full text-sm font-medium">
                    ? {question.text}
                  </span>
                ))}
                {writable && (
                  <VoidRecord trialId={trial.id} kind={one.kind as RecordKind} record={one} what={one.text} />
                )}
              </li>
            ))}
          </ul>
        </section>
      )}
    </>
  );
}
