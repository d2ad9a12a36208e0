import { useMemo, useState } from "react";
import type { Schemas, Strip, Trial } from "../../api/client";
import { useStripCounts } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { fixed, useReaderUnits } from "../../ui/readerUnits";
import { BookFrame } from "./BookFrame";
import type { BookProps } from "./bookProps";
import { CountList, type Listed } from "./CountList";
import { HowCounted, type Method, methodFor, sizeProblem, storeMethod } from "./HowCounted";
import { Keypad, useKeys, withDigit } from "./Keypad";
import { fresh, takeBack, voidedIn } from "./lines";
import { inWalk, NextPlace, nextPlace } from "./NextPlace";
import { OpenerField, openerOf } from "./OpenerField";
import type { CountWaiting, Waiting } from "./outbox";
import {
  areaM2,
  LEVEL_PCT,
  lengthM,
  likelyMeant,
  MOST,
  ofThisVisit,
  plantsInHoop,
  plantsInQuadrat,
  plantsOnRows,
  running,
  WANTED_PCT,
} from "./running";

/** Counting: one strip, one number, the keypad, where to go next, and how sure the mean is so far. */
export function CountBook(props: BookProps & { stand: Schemas["StandOut"] }) {
  const { trial, stand, strip, outbox } = props;
  const { person } = useHere();
  const reader = useReaderUnits(trial);
  const row = useRow(trial, stand, strip);
  const [digits, setDigits] = useState("");
  const [seen, setSeen] = useState({ gaps: 0, doubles: 0 });
  const [method, setMethod] = useState<Method>(() => methodFor(trial, stand, row?.row_spacing, reader));
  const [problem, setProblem] = useState("");
  const [opener, setOpener] = useState(() => openerOf(trial.id));
  const joined = useMemo(() => stand.visits.flatMap((visit) => visit.joined ?? []), [stand.visits]);
  const listed = useMemo(() => listOf(strip, row, outbox.waiting, joined), [strip, row, outbox.waiting, joined]);
  const spacing = method.ownSpacing ? method.row_spacing : (row?.row_spacing ?? method.row_spacing);
  const now = running(listed.filter((item) => !item.refused).map((item) => item.plantsPerM2));
  const places = inWalk(row?.places ?? [], stand.plan, strip.id);
  const counted = new Set(listed.flatMap((item) => (item.refused || item.place === null ? [] : [item.place])));
  const next = nextPlace(places, counted, now?.more ?? null);
  const owner = { person: person.username, trialId: trial.id, stripId: strip.id };

  const clear = () => {
    setDigits("");
    setSeen({ gaps: 0, doubles: 0 });
    setProblem("");
  };
  const move = (step: number) => {
    clear();
    props.go(step);
  };

  async function record() {
    if (!digits) return;
    const wrong = sizeProblem(method, spacing);
    if (wrong) {
      setProblem(wrong);
      return;
    }
    const plants = Number(digits);
    const at = method.by_eye ? null : next;
    const kept = await outbox.add({
      ...fresh(owner),
      kind: "count",
      plantsPerM2: perM2(method, spacing, plants),
      body: {
        strip_id: strip.id,
        method: method.method,
        plants: digits,
        by_eye: method.by_eye,
        opener: method.method === "rows" ? opener : null,
        plan_id: at ? (stand.plan?.id ?? null) : null,
        place: at?.number ?? null,
        gaps: seen.gaps || null,
        doubles: seen.doubles || null,
        recorded_at: new Date().toISOString(),
        ...sizeOf(method, spacing),
      } as CountWaiting["body"],
    });
    if (kept) clear();
    return kept;
  }

  const press = useKeys({
    digit: (digit) => setDigits(withDigit(digit, 5)),
    back: () =>
      digits
        ? setDigits(digits.slice(0, -1))
        : takeBack(listed.at(-1) && { ...(listed.at(-1) as Listed), kind: "stand-count" }, outbox, owner),
    enter: record,
    go: move,
    gap: () => setSeen((so) => ({ ...so, gaps: so.gaps + 1 })),
    double: () => setSeen((so) => ({ ...so, doubles: so.doubles + 1 })),
  });

  const meant = likelyMeant(
    Number(digits),
    listed.filter((item) => !item.refused).map((item) => Number(item.plants)),
  );
  return (
    <BookFrame
      {...props}
      task="count"
      choose={(item) => {
        clear();
        props.choose(item);
      }}
      go={move}
      blind={method.blind}
      layer="stand"
    >
      <HowCounted
        method={method}
        spacing={spacing}
        reader={reader}
        onChange={(changed) => {
          setMethod(changed);
          storeMethod(trial.id, changed);
        }}
      />
      <NextPlace places={places} next={next} counted={counted.size} byEye={method.by_eye} />
      <SoFar now={now} unit={stand.density_unit} />
      <div className="my-1 grid grid-cols-[5.5rem_1fr_5.5rem] items-stretch gap-1.5">
        <SeenButton name="Gap" hint="g" number={seen.gaps} press={() => press.gap?.()} />
        <output
          aria-label="Plants typed"
          className="tag block border-b-2 border-base-content text-center text-6xl leading-none"
        >
          {digits || <span className="opacity-25">0</span>}
        </output>
        <SeenButton name="Double" hint="d" number={seen.doubles} press={() => press.double?.()} />
      </div>
      {meant !== null && (
        <p role="status" className="text-center font-medium">
          {digits} is ten times the others here. {meant}? Enter records it as typed.
        </p>
      )}
      {problem && (
        <p role="alert" className="font-medium text-error">
          {problem}
        </p>
      )}
      {method.method === "rows" && <OpenerField trialId={trial.id} value={opener} onChange={setOpener} />}
      <CountList listed={listed} unit={stand.density_unit} />
      <Keypad press={press} recordable={Boolean(digits)} />
    </BookFrame>
  );
}

/** Plants per m² as the device reckons them until the server's number is there. */
function perM2(method: Method, spacing: Method["row_spacing"], plants: number): number {
  if (method.method === "rows")
    return plantsOnRows(plants, lengthM(method.length) ?? 0, Number(method.rows), lengthM(spacing) ?? 0);
  if (method.method === "hoop") return plantsInHoop(plants, lengthM(method.diameter) ?? 0);
  return plantsInQuadrat(plants, areaM2(method.area) ?? 0);
}

/** The measures that go with a count, as typed. */
function sizeOf(method: Method, spacing: Method["row_spacing"]): Partial<CountWaiting["body"]> {
  if (method.method === "rows")
    return { length: method.length, rows: method.rows, row_spacing: { text: spacing.text, unit: spacing.unit } };
  return method.method === "hoop" ? { diameter: method.diameter } : { area: method.area };
}

/** What is known of a strip; a visit of very many counts leaves the single ones of a strip to be asked for. */
function useRow(trial: Trial, stand: Schemas["StandOut"], strip: Strip) {
  const row = stand.strips.find((stripStand) => stripStand.strip_id === strip.id);
  const wanted = !stand.counts_along && row !== undefined && row.number > 0;
  const asked = useStripCounts(trial.id, strip.id, stand.visit, wanted).data;
  return useMemo(() => {
    if (!row || !asked) return row;
    const known = new Set(asked.map((count) => count.id));
    return { ...row, counts: [...asked, ...row.counts.filter((count) => !known.has(count.id))] };
  }, [row, asked]);
}

/** Counts of one strip at this visit, as they stand on the server and on this device together. */
export function listOf(
  strip: Strip,
  row: Schemas["StripStandOut"] | undefined,
  waiting: Waiting[],
  joined: Schemas["JoinedVisitOut"][],
): Listed[] {
  const voided = voidedIn(waiting);
  const kept = (row?.counts ?? []).filter((count) => !voided.has(count.id) && ofThisVisit(count.recorded_at, joined));
  const known = new Set(kept.map((count) => count.id));
  const here = waiting.filter(
    (item): item is CountWaiting => item.kind === "count" && item.stripId === strip.id && !known.has(item.id),
  );
  return [
    ...kept.map((count) => ({
      id: count.id,
      plants: String(count.plants),
      plantsPerM2: count.plants_per_m2,
      place: count.place,
      version: count.version,
      waiting: false,
      refused: null,
      questions: count.questions.map((question) => question.text),
      corrected: Boolean(count.clock_shift_s),
    })),
    ...here.map((countWaiting) => ({
      id: countWaiting.id,
      plants: countWaiting.body.plants,
      plantsPerM2: countWaiting.plantsPerM2,
      place: countWaiting.body.place ?? null,
      version: 1,
      waiting: true,
      refused: countWaiting.refused,
      questions: [],
    })),
  ];
}

type SeenProps = { name: string; hint: string; number: number; press: () => void };

/** Gaps and doubles counted through: they change nothing in the stand and say why it is uneven. */
function SeenButton({ name, hint, number, press }: SeenProps) {
  return (
    <button type="button" className="plain min-h-14" onClick={press}>
      {name}
      {number > 0 && <span className="font-semibold"> {number}</span>} <kbd className="muted">{hint}</kbd>
    </button>
  );
}

function SoFar({ now, unit }: { now: ReturnType<typeof running>; unit: Schemas["DensityUnitOut"] }) {
  const show = (value: number) => fixed(value / unit.factor, unit.decimals);
  if (!now) return <p className="muted mt-1 text-center">No count on this strip yet.</p>;
  const more =
    now.needed === null
      ? "A second count gives the first interval."
      : now.more === 0
        ? `Within ±${WANTED_PCT.toFixed(0)} %: enough here.`
        : now.needed > MOST
          ? `More than ${MOST} counts to reach ±${WANTED_PCT.toFixed(0)} %: very uneven.`
          : `${now.more} more to reach ±${WANTED_PCT.toFixed(0)} %`;
  return (
    <p className="mt-1 text-center" aria-live="polite">
      <span className="text-xl font-semibold">
        {show(now.mean)}
        {now.halfWidth !== null && ` ± ${show(now.halfWidth)}`} plants{unit.label}
      </span>{" "}
      <span className="muted">
        {now.n} {now.n === 1 ? "count" : "counts"}
        {now.share !== null && `, ±${(100 * now.share).toFixed(1)} % at ${LEVEL_PCT.toFixed(0)} %`}
      </span>
      <span className="block font-semibold">{more}</span>
    </p>
  );
}
