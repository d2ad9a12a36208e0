import { useState } from "react";
import type { Schemas, Typed } from "../../api/client";
import { useHere } from "../../app/Gate";
import { QuantityField } from "../../ui/fields";
import { HANDY_FRAME, handyIn, type ReaderUnits, useReaderUnits } from "../../ui/readerUnits";
import { StagePicture } from "../trial/stand/StagePicture";
import { BookFrame } from "./BookFrame";
import { BookList } from "./BookList";
import type { BookProps } from "./bookProps";
import { Keypad, useKeys, withDigit, withPoint } from "./Keypad";
import { fresh, linesOf, takeBack } from "./lines";

type Trait = Schemas["MeasuredOut"];
/** How something is measured in this trial; it stays as it was last time. */
type How = { trait: string; subject: string; plants: string; area: Typed; unit: Record<string, string> };
const place = (trialId: string) => `measure:${trialId}`;

function howFor(trialId: string, traits: Trait[], asked: string | null, reader: ReaderUnits): How {
  const usual: How = {
    trait: traits[0]?.key ?? "",
    subject: "",
    plants: "20",
    area: handyIn(reader, "sample_area", HANDY_FRAME),
    unit: {},
  };
  try {
    const kept = JSON.parse(localStorage.getItem(place(trialId)) ?? "{}") as Partial<How>;
    return { ...usual, ...kept, ...(asked ? { trait: asked } : {}) };
  } catch {
    return usual;
  }
}

/** Measuring: what, the number, the next plant. */
export function MeasureBook(props: BookProps & { scouting: Schemas["ScoutingOut"]; asked: string | null }) {
  const { trial, strip, outbox, scouting, asked } = props;
  const { person } = useHere();
  const reader = useReaderUnits(trial);
  const [how, setHow] = useState(() => howFor(trial.id, scouting.measured, asked, reader));
  const [digits, setDigits] = useState("");
  const [minus, setMinus] = useState(false);
  const [problem, setProblem] = useState("");
  const trait = scouting.measured.find((measured) => measured.key === how.trait) ?? (scouting.measured[0] as Trait);
  const unit = how.unit[trait.key] ?? trait.units[0]?.[0] ?? "";
  const row = scouting.strips.find((stripScouting) => stripScouting.strip_id === strip.id);
  const owner = { person: person.username, trialId: trial.id, stripId: strip.id };
  const same = (item: { trait: string; subject?: string }) =>
    item.trait === trait.key && (item.subject ?? "") === (trait.subject ? how.subject : "");
  const lines = linesOf({
    waitingKind: "measure",
    recordKind: "plant-measure",
    stripId: strip.id,
    kept: (row?.measures ?? []).filter(same),
    waiting: outbox.waiting.filter((item) => item.kind !== "measure" || same(item.body)),
    words: (plantMeasure) =>
      [plantMeasure.shown.text, ...plantMeasure.questions.map((question) => `? ${question.text}`)].join(" "),
    waitingWords: (measureWaiting) => measureWaiting.words,
  });
  const put = (part: Partial<How>) => {
    const next = { ...how, ...part };
    setHow(next);
    setProblem("");
    localStorage.setItem(place(trial.id), JSON.stringify(next));
  };

  async function record() {
    if (!digits) return;
    if (trait.subject && !how.subject.trim()) return setProblem(`Name it first: ${trait.subject.toLowerCase()}.`);
    const typed = minus && trait.signed ? `-${digits}` : digits;
    const label = trait.units.find(([code]) => code === unit)?.[1] ?? "";
    const of =
      trait.by === "plants"
        ? ` on ${how.plants} plants`
        : trait.by === "area"
          ? ` in ${how.area.text} ${how.area.unit}`
          : "";
    const kept = await outbox.add({
      ...fresh(owner),
      kind: "measure",
      words: `${typed} ${label}${of}`.trim(),
      body: {
        strip_id: strip.id,
        trait: trait.key,
        subject: trait.subject ? how.subject.trim() : "",
        value: { text: typed, unit },
        sample_plants: trait.by === "plants" ? Number.parseInt(how.plants, 10) || null : null,
        area: trait.by === "area" ? how.area : { text: "", unit: "" },
        by_eye: false,
        recorded_at: new Date().toISOString(),
      },
    });
    if (kept) {
      setDigits("");
      setMinus(false);
      setProblem("");
    }
    return kept;
  }
  const move = (step: number) => {
    setDigits("");
    props.go(step);
  };
  const press = useKeys({
    digit: (digit) => setDigits(withDigit(digit, 6)),
    point: () => setDigits(withPoint),
    back: () => (digits ? setDigits(digits.slice(0, -1)) : takeBack(lines.at(-1), outbox, owner)),
    enter: record,
    go: move,
  });
  const decimals = trait.units.length > 0;
  return (
    <BookFrame {...props} task="measure" go={move} layer="plan">
      <div className="mt-1 grid grid-cols-2 items-end gap-2">
        <label className={trait.units.length > 1 ? "col-span-1" : "col-span-2"}>
          Measured
          <select className="entry min-h-12" value={trait.key} onChange={(event) => put({ trait: event.target.value })}>
            {scouting.measured.map((measured) => (
              <option key={measured.key} value={measured.key}>
                {measured.name}
              </option>
            ))}
          </select>
        </label>
        {trait.units.length > 1 && (
          <label>
            In
            <select
              className="entry min-h-12"
              value={unit}
              onChange={(event) => put({ unit: { ...how.unit, [trait.key]: event.target.value } })}
            >
              {trait.units.map(([code = "", label]) => (
                <option key={code} value={code}>
                  {label}
                </option>
              ))}
            </select>
          </label>
        )}
        {trait.subject && (
          <label>
            {trait.subject}
            <input
              className="entry min-h-12"
              value={how.subject}
              onChange={(event) => put({ subject: event.target.value })}
            />
          </label>
        )}
        {trait.by === "plants" && (
          <label>
            Plants looked at
            <input
              className="entry min-h-12 text-right"
              inputMode="numeric"
              value={how.plants}
              onChange={(event) => put({ plants: event.target.value.replace(/\D/g, "") })}
            />
          </label>
        )}
        {trait.by === "area" && (
          <QuantityField
            label="Area of the frame"
            dimension="area"
            reader={reader}
            value={how.area}
            onCommit={(area) => put({ area })}
          />
        )}
      </div>
      <p className="muted mt-1">{trait.hint}</p>
      {trait.key === "leaves" && scouting.rule && <StagePicture rule={scouting.rule} small />}
      <output
        aria-label="Value typed"
        className="tag my-1 block border-b-2 border-base-content text-center text-5xl leading-none"
      >
        {minus && trait.signed && "−"}
        {digits || <span className="opacity-25">0</span>}
        <span className="ml-2 text-2xl">
          {decimals ? trait.units.find(([code]) => code === unit)?.[1] : trait.by === "strip" ? trait.unit : ""}
        </span>
      </output>
      {trait.signed && (
        <label className="flex min-h-11 items-center gap-2">
          <input
            type="checkbox"
            className="h-5 w-5"
            checked={minus}
            onChange={(event) => setMinus(event.target.checked)}
          />
          Below zero
        </label>
      )}
      {problem && (
        <p role="alert" className="font-medium text-error">
          {problem}
        </p>
      )}
      <BookList label="Measured on this strip" lines={lines} />
      <Keypad press={press} recordable={Boolean(digits)} decimals={decimals} what="value" />
    </BookFrame>
  );
}
