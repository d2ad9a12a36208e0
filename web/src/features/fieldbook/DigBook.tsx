import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useHere } from "../../app/Gate";
import { BookFrame } from "./BookFrame";
import { BookList } from "./BookList";
import type { BookProps } from "./bookProps";
import { Keypad, useKeys } from "./Keypad";
import { fresh, linesOf, takeBack } from "./lines";

type Health = Schemas["DugPlantIn"]["health"];
const HEALTH: [Health, string, string][] = [
  ["firm", "Firm, white", "alive"],
  ["doubtful", "Discoloured", "doubtful"],
  ["dead", "Brown, soft, pulls out", "dead"],
];
const wordsOf = (health: Health, shoots: number | null | undefined) =>
  `${HEALTH.find(([key]) => key === health)?.[2]}${shoots == null ? "" : `, ${shoots} shoots`}`;

/** Plants dug one after the other: crown and root in one touch, shoots on the crown if they are counted. */
export function DigBook(props: BookProps & { scouting: Schemas["ScoutingOut"] }) {
  const { trial, strip, outbox, scouting } = props;
  const { person } = useHere();
  const [shoots, setShoots] = useState("");
  const owner = { person: person.username, trialId: trial.id, stripId: strip.id };
  const row = scouting.strips.find((stripScouting) => stripScouting.strip_id === strip.id);
  const lines = linesOf({
    waitingKind: "dug",
    recordKind: "dug-plant",
    stripId: strip.id,
    kept: row?.dug ?? [],
    waiting: outbox.waiting,
    words: (plant) => wordsOf(plant.health, plant.shoots),
    waitingWords: (plant) => plant.words,
  });
  const standing = lines.filter((line) => !line.refused);
  const dead = standing.filter((line) => line.text.startsWith("dead")).length;

  async function record(health: Health) {
    const counted = shoots && health !== "dead" ? Number(shoots) : null;
    const kept = await outbox.add({
      ...fresh(owner),
      kind: "dug",
      words: wordsOf(health, counted),
      body: { strip_id: strip.id, health, shoots: counted, by_eye: false, recorded_at: new Date().toISOString() },
    });
    if (kept) setShoots("");
    return kept;
  }
  const move = (step: number) => {
    setShoots("");
    props.go(step);
  };
  const press = useKeys({
    digit: (digit) => setShoots((typed) => (typed + digit).slice(0, 3)),
    back: () => (shoots ? setShoots(shoots.slice(0, -1)) : takeBack(lines.at(-1), outbox, owner)),
    enter: () => record("firm"),
    go: move,
    double: () => record("dead"),
    gap: () => record("doubtful"),
  });
  return (
    <BookFrame {...props} task="dig" go={move} layer="stand">
      <p className="caution mt-1">Utilities are located before anybody digs.</p>
      <p className="mt-1 text-center text-xl font-semibold" aria-live="polite">
        {standing.length
          ? `${standing.length - dead} of ${standing.length} dug plants alive`
          : "Dig at places drawn; cut crown and root across."}
      </p>
      <output
        aria-label="Shoots typed"
        className="tag my-1 block border-b-2 border-base-content text-center text-4xl leading-none"
      >
        {shoots || <span className="opacity-25">0</span>}
        <span className="ml-2 text-xl">shoots on the crown</span>
      </output>
      <BookList label="Dug plants of this strip" lines={lines} />
      <div role="group" aria-label="Crown and root" className="grid grid-cols-3 gap-1.5">
        {HEALTH.map(([key, name], place) => (
          <button
            key={key}
            type="button"
            className={`${place === 0 ? "act" : "plain"} min-h-16`}
            onClick={() => void record(key)}
          >
            {name} <kbd>{["Enter", "g", "d"][place]}</kbd>
          </button>
        ))}
      </div>
      <Keypad press={press} recordable={null} what="plant" />
    </BookFrame>
  );
}
