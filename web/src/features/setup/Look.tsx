import { useState } from "react";
import type { Strip } from "../../api/client";
import { QuantityField, TextField } from "../../ui/fields";
import { hatchClass } from "../../ui/inks";
import { Flag, Stake } from "../../ui/marks";
import { Ribbon } from "../../ui/Ribbon";
import { useReaderUnits } from "../../ui/readerUnits";
import { Worked } from "../../ui/working";

const INKS = ["blue-black", "verdigris", "plum", "umber", "slate", "madder", "olive", "sky"];
const LETTERS = "ABCDEFGH".split("");
const TREATMENTS = LETTERS.map((letter, position) => ({ id: letter, letter, position, name: INKS[position] ?? "" }));
const COLOURS = [
  "--color-base-100",
  "--paper",
  "--color-base-200",
  "--color-base-300",
  "--color-base-content",
  "--muted",
  "--color-accent",
  "--color-error",
];

const strips: Strip[] = LETTERS.map((letter, place) => ({
  id: letter,
  order: place + 1,
  block: place < 4 ? 1 : 2,
  block_name: place < 4 ? "Block 1" : "Block 2",
  treatment_id: letter,
  received_id: place === 5 ? "A" : letter,
  main: 0,
  column: place + 1,
  row: 1,
  place: null,
  area: null,
  lost: place === 2,
  reason: place === 2 ? "washed out" : place === 5 ? "drill left on A" : "",
  width: null,
  length: null,
  sown: false,
  sown_on: null,
  depths: 0,
  depth: null,
  deviations: [],
  events: [],
  counts: 0,
  stand: null,
  samples: 0,
  estimate: null,
  loads: 0,
  yield_: null,
  net_return: null,
  net_return_working: null,
}));

/** The visual language in one place, in the theme that is on. */
export function Look() {
  const [text, setText] = useState("as it was typed");
  const [width, setWidth] = useState({ text: "12.5", unit: "cm" });
  const [selected, setSelected] = useState<string | null>("B");
  return (
    <div className="max-w-5xl space-y-5">
      <h1>The look</h1>
      <section aria-labelledby="inks">
        <h2 id="inks">Inks and hatches</h2>
        <p className="muted">A treatment is known by its letter and its hatch; the ink helps where there is colour.</p>
        <ul className="mt-2 grid grid-cols-4 gap-3 md:grid-cols-8">
          {TREATMENTS.map((treatment) => (
            <li key={treatment.letter}>
              <div
                className={`grid h-20 place-items-center border border-base-content ${hatchClass(treatment.position)}`}
              >
                <Stake letter={treatment.letter} position={treatment.position} />
              </div>
              <span className="text-sm">{treatment.name}</span>
            </li>
          ))}
        </ul>
      </section>
      <section aria-labelledby="ribbon">
        <h2 id="ribbon">Ribbon</h2>
        <p className="muted">Strip 3 is lost, strip 6 was sown otherwise, one strip is selected.</p>
        <Ribbon
          strips={strips}
          treatments={TREATMENTS}
          selected={selected}
          onSelect={(strip) => setSelected(strip.id)}
        />
      </section>
      <section aria-labelledby="type">
        <h2 id="type">Type</h2>
        <p className="tag text-[1.6rem]">Barlow Condensed: the verdict, headings, tags 0123456789</p>
        <p>Barlow: everything read. Figures stand in columns: 1 111.1 over 8 888.8.</p>
        <p className="muted">Muted: what may be skipped at first.</p>
      </section>
      <section aria-labelledby="colours">
        <h2 id="colours">Paper, ink and the flag</h2>
        <ul className="mt-2 flex flex-wrap gap-3">
          {COLOURS.map((name) => (
            <li key={name} className="text-sm">
              <div className="h-10 w-28 border border-base-content" style={{ background: `var(${name})` }} />
              {name.replace("--", "").replace("color-", "")}
            </li>
          ))}
        </ul>
        <p className="mt-2 flex items-center gap-2">
          <Flag /> The flag's orange means “act here” or “this is selected”, nothing else.
        </p>
      </section>
      <section aria-labelledby="controls" className="grid gap-3 md:grid-cols-3">
        <h2 id="controls" className="md:col-span-3">
          Controls
        </h2>
        <TextField label="A text" value={text} hint="Commits when left." onCommit={setText} />
        <QuantityField
          label="A quantity"
          dimension="length"
          reader={useReaderUnits()}
          value={width}
          onCommit={setWidth}
        />
        <TextField
          label="A refused text"
          value="twelve"
          error="A number is needed; got “twelve”."
          onCommit={() => undefined}
        />
        <p className="flex items-center gap-3 md:col-span-3">
          <button type="button" className="act">
            Act here
          </button>
          <button type="button" className="plain">
            Something else
          </button>
          <Worked
            working={{
              title: "A worked number",
              outcome: "80 seeds/m²",
              assumption: "Nothing moves it: it is an example.",
              table: [],
              steps: [
                {
                  label: "Seeds per area",
                  formula: "seeds per metre ÷ row spacing",
                  numbers: "10 ÷ 0.125 m",
                  outcome: "80 seeds/m²",
                  source: "",
                },
              ],
            }}
          >
            80 seeds/m²
          </Worked>
        </p>
        <p className="caution md:col-span-3">A caution: what may hurt, or what a number does not say.</p>
      </section>
    </div>
  );
}
