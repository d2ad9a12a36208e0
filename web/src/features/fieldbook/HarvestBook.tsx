import { useEffect, useState } from "react";
import type { Schemas, Strip, Typed } from "../../api/client";
import { useHere } from "../../app/Gate";
import { signedPct } from "../../ui/percent";
import { fixed, useReaderUnits } from "../../ui/readerUnits";
import { BookFrame } from "./BookFrame";
import { BookList } from "./BookList";
import type { BookProps } from "./bookProps";
import type { Driving } from "./driving";
import { cutFor, HowCut, storeCut } from "./HowCut";
import { Instrument } from "./Instrument";
import { Keypad, useKeys } from "./Keypad";
import { fresh, type Line, linesOf, takeBack, voidedIn } from "./lines";
import type { Waiting } from "./outbox";
import { lengthM, massKg, standardYield } from "./running";

type Row = Schemas["StripHarvestOut"] | undefined;
type Entry = "gross" | "tare" | "moisture";
const LABELS: Record<Entry, string> = { gross: "Gross", tare: "Tare", moisture: "Moisture" };
const NOTHING = { text: "", unit: "" };

/** Loads of one strip, here and on the server together. */
export function loadsOf(row: Row, waiting: Waiting[], stripId: string): Line[] {
  return linesOf({
    waitingKind: "load",
    recordKind: "harvest-load",
    stripId,
    kept: row?.loads ?? [],
    waiting,
    words: (harvestLoad) =>
      [
        harvestLoad.gross.text
          ? `${harvestLoad.gross.text} − ${harvestLoad.tare.text || "0"} ${harvestLoad.gross.unit}`
          : harvestLoad.net.shown,
        harvestLoad.moisture.text ? `${harvestLoad.moisture.text} %` : "no moisture",
        harvestLoad.yield_?.text,
      ]
        .filter(Boolean)
        .join(", "),
    waitingWords: (loadWaiting) => loadWaiting.words,
  });
}

/** Strips that have a load that stands, by id. */
export const weighed = (rows: Schemas["StripHarvestOut"][], waiting: Waiting[], strips: Strip[]) =>
  new Set(
    strips
      .filter((strip) =>
        loadsOf(
          rows.find((row) => row.strip_id === strip.id),
          waiting,
          strip.id,
        ).some((line) => !line.refused),
      )
      .map((strip) => strip.id),
  );

type Props = BookProps & { harvest: Schemas["HarvestOut"]; driving: Driving; order: Strip[] };

/** A length as its reader has it; one that waits on this device only, as it was typed. */
const wordsOf = (typed: Typed & { shown?: string | null }) =>
  typed.text ? (typed.shown ?? `${typed.text} ${typed.unit}`) : "";

/** Harvest day: the strip at hand in driving order, its weights and moisture, and what they make against what was expected. */
export function HarvestBook(props: Props) {
  const { trial, strip, outbox, harvest, driving, order } = props;
  const { person } = useHere();
  const reader = useReaderUnits(trial);
  const row = harvest.strips.find((stripHarvest) => stripHarvest.strip_id === strip.id);
  const [cut, setCut] = useState(() => cutFor(trial.id, reader));
  const [typed, setTyped] = useState<Record<Entry, string>>({ gross: "", tare: "", moisture: "" });
  const [at, setAt] = useState<Entry>("gross");
  const [problem, setProblem] = useState("");
  const [listening, setListening] = useState(false);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another strip begins with empty fields
  useEffect(() => {
    setTyped({ gross: "", tare: cut.tare || lastTare(harvest, cut.unit), moisture: "" });
    setAt("gross");
    setProblem("");
  }, [strip.id]);
  const owner = { person: person.username, trialId: trial.id, stripId: strip.id };
  const lines = loadsOf(row, outbox.waiting, strip.id);
  const done = weighed(harvest.strips, outbox.waiting, order);
  const asksMoisture = harvest.standard_moisture_pct !== null;
  const entries: Entry[] = asksMoisture ? ["gross", "tare", "moisture"] : ["gross", "tare"];
  const swath = cut.swath.text ? cut.swath : (row?.swath_width ?? NOTHING);
  const length = cut.length.text ? cut.length : (row?.length ?? NOTHING);
  const kgHa = reckoned(typed, cut.unit, swath, length, harvest.standard_moisture_pct);
  const put = (text: string) => {
    setTyped((now) => ({ ...now, [at]: text }));
    setProblem("");
  };
  const show = (value: number) =>
    `${fixed(value / harvest.yield_unit.factor, harvest.yield_unit.decimals)} ${harvest.yield_unit.label}`;

  async function record() {
    if (!(Number(typed.gross) > 0)) return setProblem("Type the gross weight.");
    if (cut.shared)
      return setProblem(
        "A load with the grain of several strips cannot be shared out: nobody knows how much came from which. Weigh each strip alone, or leave the load out.",
      );
    if (typed.tare && Number(typed.tare) >= Number(typed.gross))
      return setProblem("The tare is as much as the gross. Were they swapped?");
    if (!lengthM(swath) || !lengthM(length))
      return setProblem("Say how wide and how long was cut: open the line above.");
    const kept = await outbox.add({
      ...fresh(owner),
      kind: "load",
      kgHa,
      words: `${typed.gross} − ${typed.tare || "0"} ${cut.unit}${typed.moisture ? `, ${typed.moisture} %` : asksMoisture ? ", no moisture yet" : ""}`,
      body: {
        strip_id: strip.id,
        method: "weighed",
        gross: { text: typed.gross, unit: cut.unit },
        tare: typed.tare ? { text: typed.tare, unit: cut.unit } : NOTHING,
        net: NOTHING,
        moisture: typed.moisture ? { text: typed.moisture, unit: "%" } : NOTHING,
        swath_width: { text: swath.text, unit: swath.unit },
        length: { text: length.text, unit: length.unit },
        passes: NOTHING,
        pieces: NOTHING,
        test_weight: NOTHING,
        shrink: NOTHING,
        stated_yield: NOTHING,
        more_strip_ids: [],
        recorded_at: new Date().toISOString(),
      } as Schemas["HarvestLoadIn"],
    });
    if (!kept) return kept;
    const as = { ...cut, tare: typed.tare };
    setCut(as);
    storeCut(trial.id, as);
    setTyped({ gross: "", tare: typed.tare, moisture: "" });
    setAt("gross");
    return kept;
  }

  const onward = () => {
    const next = entries[entries.indexOf(at) + 1];
    return next ? setAt(next) : record();
  };
  const text = typed[at];
  const press = useKeys({
    digit: (digit) => put(text === "0" ? digit : (text + digit).slice(0, 7)),
    point: () => put(text.includes(".") ? text : `${text || "0"}.`),
    back: () => {
      if (text) put(text.slice(0, -1));
      else if (at !== "gross") setAt(entries[entries.indexOf(at) - 1] ?? "gross");
      else return takeBack(lines.at(-1), outbox, owner);
      return undefined;
    },
    enter: onward,
    go: props.go,
  });
  const next = order[(order.indexOf(strip) + 1) % order.length] as Strip;
  const questions = row?.loads.flatMap((load) => load.questions) ?? [];
  return (
    <BookFrame {...props} task="harvest" done={done} layer="yield_">
      <HowCut
        cut={cut}
        swath={wordsOf(swath)}
        length={wordsOf(length)}
        driving={driving}
        reader={reader}
        onChange={(changed) => {
          setCut(changed);
          storeCut(trial.id, changed);
        }}
      />
      <Expectation
        row={row}
        kgHa={kgHa}
        show={show}
        harvest={harvest}
        done={done.size}
        of={order.length}
        strip={strip}
        waiting={outbox.waiting}
      />
      <div role="group" aria-label="What is typed" className="mt-1 grid grid-flow-col gap-1.5">
        {entries.map((entry) => (
          <button
            key={entry}
            type="button"
            aria-pressed={entry === at}
            className={`min-h-14 border px-2 text-left leading-tight ${entry === at ? "border-4 border-accent" : "border-base-content"} bg-(--paper)`}
            onClick={() => setAt(entry)}
          >
            <span className="muted block text-sm">{LABELS[entry]}</span>
            <span className="tag text-2xl">
              {typed[entry] || <span className="opacity-25">{entry === "moisture" ? "later" : "0"}</span>}
              <span className="ml-1 text-base">{entry === "moisture" ? "%" : cut.unit}</span>
            </span>
          </button>
        ))}
      </div>
      <Instrument
        trialId={trial.id}
        strip={strip.order}
        entry={at}
        unit={cut.unit}
        onRead={put}
        open={listening}
        setOpen={setListening}
      />
      {problem && (
        <p role="alert" className="mt-1 font-medium text-error">
          {problem}
        </p>
      )}
      {questions.map((question) => (
        <p key={question.code} className="mt-1 text-sm font-medium leading-tight">
          ? {question.text}
        </p>
      ))}
      <BookList label="Loads of this strip" lines={lines} />
      <p className="muted mt-auto text-center text-sm">
        {lines.length ? `Then strip ${next.order}` : `After it strip ${next.order}`}; one load, one strip.
      </p>
      {!listening && (
        <Keypad
          press={press}
          recordable={Boolean(typed.gross)}
          decimals
          what="load"
          act={at === entries.at(-1) ? "Record" : "Next"}
        />
      )}
    </BookFrame>
  );
}

/** The tare last weighed in this trial, where it stands in the unit of the scale. */
function lastTare(harvest: Schemas["HarvestOut"], unit: string): string {
  const loads = harvest.strips
    .flatMap((strip) => strip.loads)
    .filter((harvestLoad) => harvestLoad.tare.text && harvestLoad.tare.unit === unit);
  const last = loads.sort((a, b) => a.recorded_at.localeCompare(b.recorded_at)).at(-1);
  return last?.tare.text ?? "";
}

function reckoned(
  typed: Record<Entry, string>,
  unit: string,
  swath: { text: string; unit: string },
  length: { text: string; unit: string },
  standard: number | null,
): number | null {
  const gross = massKg({ text: typed.gross, unit });
  const tare = typed.tare ? massKg({ text: typed.tare, unit }) : 0;
  const wide = lengthM(swath);
  const long = lengthM(length);
  if (gross === null || tare === null || gross <= tare || !wide || !long) return null;
  return standardYield(gross - tare, wide * long, typed.moisture ? Number(typed.moisture) : null, standard);
}

type Shown = {
  row: Row;
  kgHa: number | null;
  show: (value: number) => string;
  harvest: Schemas["HarvestOut"];
  done: number;
  of: number;
  strip: Strip;
  waiting: Waiting[];
};

/** The yield so far against what was expected of this strip. */
function Expectation({ row, kgHa, show, harvest, done, of, strip, waiting }: Shown) {
  const voided = voidedIn(waiting);
  const kept = row?.yield_ && !row.loads.every((load) => voided.has(load.id)) ? row.yield_ : null;
  const here = waiting.flatMap((item) =>
    item.kind === "load" && item.stripId === strip.id && item.kgHa ? [item.kgHa] : [],
  );
  const factor = harvest.yield_unit.factor;
  const value = kgHa ?? here.at(-1) ?? (kept ? kept.value * factor : null);
  const expected = row?.expected ? row.expected.value * factor : null;
  return (
    <p className="mt-1 text-center leading-tight" aria-live="polite">
      <span className="text-xl font-semibold">{value === null ? "No yield yet" : show(value)}</span>{" "}
      {value !== null && harvest.standard_moisture_pct !== null && (
        <span className="muted">
          at {harvest.standard_moisture_pct === 0 ? "0 % (dry matter)" : `${harvest.standard_moisture_pct} %`}
        </span>
      )}
      <span className="block">
        {row?.expected ? (
          <>
            {row.expected.text} {row.expected_words}
            {value !== null && expected ? <b>: {signedPct(100 * (value / expected - 1))}</b> : ""}
          </>
        ) : (
          <span className="muted">Nothing was expected of it</span>
        )}
      </span>
      <span className="muted text-sm">
        {done} of {of} strips weighed
      </span>
    </p>
  );
}
