import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useHere } from "../../app/Gate";
import { BookFrame } from "./BookFrame";
import { BookList } from "./BookList";
import type { BookProps } from "./bookProps";
import { useKeys } from "./Keypad";
import { fresh, linesOf, takeBack } from "./lines";
import { ofThisVisit } from "./running";

type Props = BookProps & { scouting: Schemas["ScoutingOut"]; asked: string | null };
const place = (trialId: string) => `rate:${trialId}`;
/** A trait with its scale; an answer kept on the device from before scales came with it is rated from 1 to 9. */
const onScale = (rated: Schemas["RatedOut"] | undefined) =>
  rated && { ...rated, lowest: rated.lowest ?? 1, highest: rated.highest ?? 9, choices: rated.choices ?? [] };
/** A score as it is read: of its scale, or the word that was chosen. */
const scoreWords = (rated: Schemas["RatedOut"] | undefined, score: number) =>
  rated?.choices[score - rated.lowest] ?? `${score} of ${rated?.highest ?? 9}`;

/** Judging: one touch from 1 to 9, blind unless one says otherwise, and on to the next strip. */
export function RateBook(props: Props) {
  const { trial, strip, outbox, scouting, asked } = props;
  const { person } = useHere();
  const [trait, setTrait] = useState(asked || localStorage.getItem(place(trial.id)) || scouting.rated[0]?.key || "");
  const [blind, setBlind] = useState(true);
  const rated = onScale(scouting.rated.find((item) => item.key === trait) ?? scouting.rated[0]);
  const row = scouting.strips.find((stripScouting) => stripScouting.strip_id === strip.id);
  const owner = { person: person.username, trialId: trial.id, stripId: strip.id };
  const lines = linesOf({
    waitingKind: "rating",
    recordKind: "rating",
    stripId: strip.id,
    kept: (row?.ratings ?? []).filter((rating) => rating.trait === trait && ofThisVisit(rating.recorded_at)),
    waiting: outbox.waiting.filter((item) => item.kind !== "rating" || item.body.trait === trait),
    words: (rating) => `${scoreWords(rated, rating.score)}${rating.blind ? ", blind" : ""}`,
    waitingWords: ({ body }) => `${scoreWords(rated, body.score)}${body.blind ? ", blind" : ""}`,
  });
  const done = new Set(
    trial.strips
      .filter((item) => {
        const kept = scouting.strips.find((other) => other.strip_id === item.id)?.ratings ?? [];
        const here = outbox.waiting.some(
          (waiting) => waiting.kind === "rating" && waiting.stripId === item.id && waiting.body.trait === trait,
        );
        return here || kept.some((rating) => rating.trait === trait && ofThisVisit(rating.recorded_at));
      })
      .map((item) => item.id),
  );

  async function record(score: number) {
    if (!rated || score < rated.lowest || score > rated.highest) return;
    const kept = await outbox.add({
      ...fresh(owner),
      kind: "rating" as const,
      body: {
        strip_id: strip.id,
        trait: rated.key,
        score,
        blind,
        note: "",
        recorded_at: new Date().toISOString(),
      },
    });
    if (kept) props.go(1);
    return kept;
  }
  useKeys({
    digit: (digit) => record(Number(digit)),
    back: () => takeBack(lines.at(-1), outbox, owner),
    enter: () => undefined,
    go: props.go,
  });
  return (
    <BookFrame {...props} task="rate" blind={blind} done={done} layer="plan">
      <div className="mt-1 grid grid-cols-2 items-end gap-2">
        <label>
          Judged
          <select
            className="entry min-h-12"
            value={trait}
            onChange={(event) => {
              setTrait(event.target.value);
              localStorage.setItem(place(trial.id), event.target.value);
            }}
          >
            {scouting.rated.map((item) => (
              <option key={item.key} value={item.key}>
                {item.name}
              </option>
            ))}
          </select>
        </label>
        <label className="flex min-h-12 items-center gap-2">
          <input type="checkbox" checked={blind} onChange={(event) => setBlind(event.target.checked)} />
          Blind: strip numbers only
        </label>
      </div>
      <p className="mt-1" aria-live="polite">
        <span className="font-semibold">
          {done.size} of {trial.strips.length} strips judged
        </span>
        <span className="muted">; what an eye says is kept apart from what is counted.</span>
      </p>
      <BookList
        label="Ratings of this strip"
        lines={lines}
        onTakeBack={(id) =>
          void takeBack(
            lines.find((line) => line.id === id),
            outbox,
            owner,
          )
        }
      />
      {rated && !rated.choices.length && (
        <div className="mt-1 flex justify-between font-semibold">
          <span>
            {rated.lowest}: {rated.low}
          </span>
          <span>
            {rated.highest}: {rated.high}
          </span>
        </div>
      )}
      <div
        role="group"
        aria-label="Score"
        className={`grid gap-1.5 ${rated?.choices.length ? "grid-cols-2" : "grid-cols-3"}`}
      >
        {rated &&
          Array.from({ length: rated.highest - rated.lowest + 1 }, (_, step) => rated.lowest + step).map((score) => (
            <button
              key={score}
              type="button"
              className="plain min-h-16 text-2xl font-semibold"
              onClick={(event) => event.detail <= 1 && void record(score)}
            >
              {rated.choices[score - rated.lowest] ?? score}
            </button>
          ))}
      </div>
    </BookFrame>
  );
}
