import { Link } from "react-router";
import type { RecordKind, Schemas } from "../../../api/client";
import { useReadings } from "../../../api/queries";
import { saveCsv } from "../../../ui/csv";
import { JoinedDays } from "../JoinedDays";
import type { Stage } from "../TrialFrame";
import { VoidRecord } from "../VoidRecord";
import { SummaryTable } from "./SummaryTable";

type Props = { stage: Stage; scouting: Schemas["ScoutingOut"] };

/** What was measured: by treatment, then the values of the strip that is selected. */
export function Measured({ stage, scouting }: Props) {
  const { trial, writable, selected } = stage;
  const readings = useReadings(trial.id);
  const summaries = scouting.summaries.filter((summary) => !summary.judged);
  const values = scouting.strips.find((strip) => strip.strip_id === selected?.id)?.measures ?? [];
  const names = new Map(scouting.measured.map((measured) => [measured.key, measured.name]));
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
      {readings.data && !readings.data.summaries.length && !summaries.length && (
        <p className="muted mt-2">
          Nothing measured yet: heights, stems, ground covered, weeds by kind, pests and disease on plants, lodging,
          resistance of the soil.
        </p>
      )}
      {summaries.map((summary) => (
        <SummaryTable key={summary.trait + summary.subject} trial={trial} summary={summary} />
      ))}
      {summaries.length > 0 && <JoinedDays trialId={trial.id} writable={writable} task="measure" leftOut={[]} />}
      {values.length > 0 && (
        <section aria-label={`Values of strip ${selected?.order}`} className="sheet mt-4 p-2">
          <h3>Values of strip {selected?.order}</h3>
          <ul>
            {values.map((value) => (
              <li key={value.id} className="flex flex-wrap items-center gap-x-3 border-b border-base-300 py-1">
                <span>
                  {names.get(value.trait)}
                  {value.subject && `, ${value.subject}`}: <span className="font-semibold">{value.shown.text}</span>
                </span>
                <span className="muted text-sm">
                  typed {value.value.text} {value.value.unit}
                  {value.sample_plants !== null && ` on ${value.sample_plants} plants`}
                  {value.area.shown && ` in ${value.area.shown}`}, {value.recorded_by}
                </span>
                {value.questions.map((question) => (
                  <span key={question.code} className="basis-full text-sm font-medium">
                    ? {question.text}
                  </span>
                ))}
                {writable && (
                  <VoidRecord trialId={trial.id} kind="plant-measure" record={value} what={value.shown.text} />
                )}
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
              ...all.map((plantMeasure) => [
                trial.strips.find((strip) => strip.id === plantMeasure.strip_id)?.order ?? "",
                names.get(plantMeasure.trait) ?? plantMeasure.trait,
                plantMeasure.subject,
                plantMeasure.shown.text,
                plantMeasure.value.text,
                plantMeasure.value.unit,
                plantMeasure.sample_plants,
                plantMeasure.recorded_at,
                plantMeasure.recorded_by,
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
  const values = readings?.strips.find((strip) => strip.strip_id === selected?.id)?.readings ?? [];
  return (
    <>
      {readings?.summaries.map((summary) => (
        <SummaryTable key={summary.trait + summary.subject} trial={trial} summary={summary} />
      ))}
      {readings && readings.summaries.length > 0 && (
        <JoinedDays trialId={trial.id} writable={writable} task="reading" leftOut={[]} />
      )}
      {values.length > 0 && (
        <section aria-label={`Readings of strip ${selected?.order}`} className="sheet mt-4 p-2">
          <h3>Readings of strip {selected?.order}</h3>
          <ul>
            {values.map((value) => (
              <li key={value.id} className="flex flex-wrap items-center gap-x-3 border-b border-base-300 py-1">
                <span className="font-semibold">{value.text}</span>
                <span className="muted text-sm">
                  {value.recorded_by}
                  {value.note && `, ${value.note}`}
                </span>
                {value.questions.map((question) => (
                  <span key={question.code} className="basis-full text-sm font-medium">
                    ? {question.text}
                  </span>
                ))}
                {writable && (
                  <VoidRecord trialId={trial.id} kind={value.kind as RecordKind} record={value} what={value.text} />
                )}
              </li>
            ))}
          </ul>
        </section>
      )}
    </>
  );
}
