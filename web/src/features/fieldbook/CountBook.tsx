import { useMemo, useState } from "react";
import type { Schemas, Strip } from "../../api/client";
import { useHere } from "../../app/Gate";
import { BookFrame } from "./BookFrame";
import { CountList, type Listed } from "./CountList";
import type { BookProps } from "./FieldBook";
import { HowCounted, type Method, methodFor, storeMethod } from "./HowCounted";
import { Keypad, useKeys } from "./Keypad";
import type { CountWaiting, StrikeWaiting, Waiting } from "./outbox";
import { areaM2, LEVEL_PCT, lengthM, MOST, plantsInQuadrat, plantsOnRows, running, WANTED_PCT } from "./running";

/** Counting: one strip, one number, the keypad, and how sure the mean is so far. */
export function CountBook({
  trial,
  stand,
  strip,
  choose,
  go,
  outbox,
  change,
}: BookProps & { stand: Schemas["StandOut"] }) {
  const { person } = useHere();
  const row = stand.strips.find((one) => one.strip_id === strip.id);
  const [digits, setDigits] = useState("");
  const [method, setMethod] = useState<Method>(() => methodFor(trial, stand, row?.row_spacing, person.unit_system));
  const [problem, setProblem] = useState("");
  const listed = useMemo(() => listOf(strip, row, outbox.waiting), [strip, row, outbox.waiting]);
  const spacing = method.ownSpacing ? method.row_spacing : (row?.row_spacing ?? method.row_spacing);

  const move = (step: number) => {
    setDigits("");
    go(step);
  };

  async function record() {
    if (!digits) return;
    const length = lengthM(method.length);
    const width = lengthM(spacing);
    const area = areaM2(method.area);
    const rows = Number(method.rows);
    if (method.method === "rows" && (!length || !width || !Number.isInteger(rows) || rows < 1)) {
      setProblem("Say first how it is counted: length of row, number of rows and row spacing must be more than 0.");
      return;
    }
    if (method.method === "quadrat" && !area) {
      setProblem("Say first how it is counted: the area of the frame must be more than 0.");
      return;
    }
    setProblem("");
    const plants = Number(digits);
    const plantsPerM2 =
      method.method === "rows"
        ? plantsOnRows(plants, length ?? 0, rows, width ?? 0)
        : plantsInQuadrat(plants, area ?? 0);
    const typed = { text: spacing.text, unit: spacing.unit };
    setDigits("");
    await outbox.add({
      id: crypto.randomUUID(),
      kind: "count",
      person: person.username,
      trialId: trial.id,
      stripId: strip.id,
      plantsPerM2,
      refused: null,
      made: Date.now(),
      body: {
        strip_id: strip.id,
        method: method.method,
        plants: digits,
        by_eye: method.by_eye,
        recorded_at: new Date().toISOString(),
        ...(method.method === "rows"
          ? { length: method.length, rows: method.rows, row_spacing: typed }
          : { area: method.area }),
      } as CountWaiting["body"],
    });
  }

  async function takeBack() {
    const last = listed.at(-1);
    if (!last) return;
    if (last.waiting) await outbox.drop(last.id);
    else
      await outbox.add({
        id: `strike:${last.id}`,
        kind: "strike",
        person: person.username,
        trialId: trial.id,
        stripId: strip.id,
        recordId: last.id,
        version: last.version,
        refused: null,
        made: Date.now(),
      } satisfies StrikeWaiting);
  }

  const press = useKeys({
    digit: (digit) => setDigits((now) => (now === "0" ? digit : (now + digit).slice(0, 5))),
    back: () => (digits ? setDigits(digits.slice(0, -1)) : void takeBack()),
    enter: () => void record(),
    go: move,
  });

  const unsent = outbox.waiting.filter((one) => !one.refused).length;
  return (
    <BookFrame
      trial={trial}
      task="count"
      change={change}
      strip={strip}
      choose={(next) => {
        setDigits("");
        choose(next);
      }}
      go={move}
      unsent={unsent}
      held={outbox.held}
      blind={method.blind}
      layer="stand"
    >
      <HowCounted
        method={method}
        spacing={spacing}
        system={person.unit_system}
        onChange={(next) => {
          setMethod(next);
          storeMethod(trial.id, next);
        }}
      />
      <SoFar listed={listed} unit={stand.density_unit} />
      <output
        aria-label="Plants typed"
        className="tag my-1 block border-b-2 border-base-content text-center text-6xl leading-none"
      >
        {digits || <span className="opacity-25">0</span>}
      </output>
      {problem && (
        <p role="alert" className="font-medium text-error">
          {problem}
        </p>
      )}
      <CountList listed={listed} unit={stand.density_unit} onForget={(id) => void outbox.drop(id)} />
      <Keypad press={press} recordable={Boolean(digits)} />
    </BookFrame>
  );
}

/** Counts of one strip as they stand on the server and on this device together. */
function listOf(strip: Strip, row: Schemas["StripStandOut"] | undefined, waiting: Waiting[]): Listed[] {
  const struck = new Set(waiting.flatMap((one) => (one.kind === "strike" ? [one.recordId] : [])));
  const kept = (row?.counts ?? []).filter((count) => !struck.has(count.id));
  const known = new Set(kept.map((count) => count.id));
  const here = waiting.filter(
    (one): one is CountWaiting => one.kind === "count" && one.stripId === strip.id && !known.has(one.id),
  );
  return [
    ...kept.map((count) => ({
      id: count.id,
      plants: String(count.plants),
      plantsPerM2: count.plants_per_m2,
      version: count.version,
      waiting: false,
      refused: null,
      questions: count.questions.map((question) => question.text),
    })),
    ...here.map((one) => ({
      id: one.id,
      plants: one.body.plants,
      plantsPerM2: one.plantsPerM2,
      version: 1,
      waiting: true,
      refused: one.refused,
      questions: [],
    })),
  ];
}

function SoFar({ listed, unit }: { listed: Listed[]; unit: Schemas["DensityUnitOut"] }) {
  const now = running(listed.filter((one) => !one.refused).map((one) => one.plantsPerM2));
  const show = (value: number) => (value / unit.factor).toFixed(unit.decimals);
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
        {now.share !== null && `, ±${(100 * now.share).toFixed(1)} % (${LEVEL_PCT.toFixed(0)} % interval)`}
      </span>
      <span className="block font-semibold">{more}</span>
    </p>
  );
}
