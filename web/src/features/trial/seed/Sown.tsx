import { useState } from "react";
import { ask, client } from "../../../api/client";
import { useSeedLots } from "../../../api/queries";
import { useUnits } from "../../../ui/fields";
import { Problem } from "../../../ui/Problem";
import { UnitEntry } from "../../../ui/UnitEntry";
import { LotList } from "../../seedlots/LotList";
import type { SeedProps } from "./Rates";
import { levelsOf, newPart, type Part, type PartKind, partsOf, sharesLeft } from "./sownDraft";

const KINDS: [PartKind, string][] = [
  ["crop", "the crop"],
  ["mixture", "part of a mixture"],
  ["companion", "companion crop"],
];
const PLACES: [Part["place"] & string, string][] = [
  ["in_row", "in the same rows"],
  ["between", "between the rows"],
  ["broadcast", "broadcast"],
];

/** What goes through the drill on which strips, and the lots of the workspace. */
export function Sown({ stage, seed }: SeedProps) {
  const { trial, write, problems, writable, reader } = stage;
  const lots = useSeedLots(trial.workspace_id);
  const stored = partsOf(seed);
  const [draft, setDraft] = useState<Part[] | null>(null);
  const parts = draft ?? stored;
  const changed = draft !== null && JSON.stringify(draft) !== JSON.stringify(stored);
  const own = (lots.data ?? []).filter((lot) => lot.crop === trial.crop);
  const first = own[0] ?? lots.data?.[0];
  const put = (place: number, part: Partial<Part>) =>
    setDraft(parts.map((sown, index) => (index === place ? { ...sown, ...part } : sown)));
  const rowOf = (place: number) => ({
    part: parts[place] as Part,
    number: place + 1,
    stage,
    lots: lots.data ?? [],
    put: (item: Partial<Part>) => put(place, item),
    drop: () => setDraft(parts.filter((_, index) => index !== place)),
  });
  const send = (rows: Part[]) => (version: number, amendment: string) =>
    ask(
      client.PUT("/api/trials/{trial_id}/sowing", {
        params: { path: { trial_id: trial.id } },
        body: { version, amendment, parts: rows },
      }),
    );
  async function keep() {
    const kept = await write("sowing", send(parts), { label: "what is sown", run: send(stored) });
    if (kept) setDraft(null);
  }
  return (
    <>
      <section aria-label="What is sown">
        <h2>What is sown</h2>
        {!parts.length && (
          <p className="muted">
            {lots.data?.length ? "Nothing chosen yet: take the lot that is in the drill." : "Add the lot below first."}
          </p>
        )}
        {parts.map((_, place) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: rows have no id until they are kept, and are only put at the end
          <PartRow key={place} {...rowOf(place)} />
        ))}
        {writable && first && (
          <div className="mt-2 flex flex-wrap items-center gap-3">
            {KINDS.filter(
              ([kind]) => kind !== "crop" || !parts.some((part) => part.part === "crop" && !part.level_id),
            ).map(([kind, name]) => (
              <button
                key={kind}
                type="button"
                className="plain"
                onClick={() =>
                  setDraft([
                    ...parts,
                    newPart(
                      (kind === "companion" ? (lots.data?.find((lot) => lot.crop !== trial.crop) ?? first) : first).id,
                      kind,
                      reader,
                    ),
                  ])
                }
              >
                Add {kind === "crop" ? "the crop's lot" : name}
              </button>
            ))}
            {changed && (
              <>
                <button type="button" className="act" onClick={() => void keep()}>
                  Keep what is sown
                </button>
                <button type="button" className="plain" onClick={() => setDraft(null)}>
                  Leave it as it was
                </button>
              </>
            )}
            <span className="muted">{sharesLeft(parts)}</span>
          </div>
        )}
        <Problem>{problems.sowing}</Problem>
      </section>
      <Mixtures stage={stage} seed={seed} />
      <section aria-label="Seed lots" className="mt-5">
        <h2>Seed lots of the workspace</h2>
        <LotList
          home={{ workspaceId: trial.workspace_id, reader, currency: stage.currency }}
          lots={lots.data ?? []}
          crop={trial.crop}
          writable={writable}
        />
      </section>
    </>
  );
}

type RowProps = {
  part: Part;
  number: number;
  stage: SeedProps["stage"];
  lots: { id: string; title: string; crop_name: string }[];
  put: (part: Partial<Part>) => void;
  drop: () => void;
};

function PartRow({ part, number, stage, lots, put, drop }: RowProps) {
  const { trial, writable, reader } = stage;
  const rates = useUnits("seeding_rate", reader).filter(([code]) => !/plants|bags/.test(code));
  return (
    <div className="asked mt-2">
      <label>
        Part {number}
        <select
          className="entry"
          value={part.part}
          disabled={!writable}
          onChange={(event) => put({ part: event.target.value as PartKind })}
        >
          {KINDS.map(([kind, name]) => (
            <option key={kind} value={kind}>
              {name}
            </option>
          ))}
        </select>
      </label>
      <label>
        Lot<span className="sr-only"> of part {number}</span>
        <select
          className="entry"
          value={part.lot_id}
          disabled={!writable}
          onChange={(event) => put({ lot_id: event.target.value })}
        >
          {lots.map((lot) => (
            <option key={lot.id} value={lot.id}>
              {lot.crop_name}: {lot.title}
            </option>
          ))}
        </select>
      </label>
      <label>
        On<span className="sr-only"> which strips, part {number}</span>
        <select
          className="entry"
          value={part.level_id ?? ""}
          disabled={!writable}
          onChange={(event) => put({ level_id: event.target.value ? Number(event.target.value) : null })}
        >
          <option value="">all strips</option>
          {levelsOf(trial).map(([id, name]) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </select>
      </label>
      {part.part === "mixture" && (
        <>
          <div>
            <span className="font-medium">Share</span>
            <UnitEntry
              numeric
              label={`Share of part ${number}`}
              value={part.share ?? { text: "", unit: "%" }}
              units={[["%", "%"]]}
              disabled={!writable}
              onChange={(share) => put({ share })}
            />
          </div>
          <label>
            of the<span className="sr-only"> whole, part {number}</span>
            <select
              className="entry"
              value={part.share_by}
              disabled={!writable}
              onChange={(event) => put({ share_by: event.target.value as Part["share_by"] })}
            >
              <option value="weight">weight</option>
              <option value="seeds">seeds</option>
            </select>
          </label>
        </>
      )}
      {part.part === "companion" && (
        <>
          <div>
            <span className="font-medium">Its own rate</span>
            <UnitEntry
              numeric
              label={`Rate of part ${number}`}
              value={part.rate ?? { text: "", unit: "kg/ha" }}
              units={rates}
              disabled={!writable}
              onChange={(rate) => put({ rate })}
            />
          </div>
          <label>
            Sown<span className="sr-only"> where, part {number}</span>
            <select
              className="entry"
              value={part.place}
              disabled={!writable}
              onChange={(event) => put({ place: event.target.value as Part["place"] })}
            >
              {PLACES.map(([key, name]) => (
                <option key={key} value={key}>
                  {name}
                </option>
              ))}
            </select>
          </label>
        </>
      )}
      {writable && (
        <button type="button" className="pb-1.5 underline" onClick={drop}>
          Remove<span className="sr-only"> part {number}</span>
        </button>
      )}
    </div>
  );
}

function Mixtures({ stage, seed }: SeedProps) {
  const mixed = seed.treatments.filter((treatment) => treatment.mixture.length > 0);
  if (!mixed.length) return null;
  return (
    <section aria-label="Mixtures" className="mt-4">
      <h2>What the mixture comes to</h2>
      <table className="figures max-w-3xl">
        <thead>
          <tr>
            <th>Treatment</th>
            <th>Part</th>
            <th className="num">Seeds</th>
            <th className="num">Weight</th>
            <th className="num">Share</th>
          </tr>
        </thead>
        <tbody>
          {mixed.flatMap((row) =>
            row.mixture.map((item) => (
              <tr key={`${row.treatment_id} ${item.name}`}>
                <td>{stage.trial.treatments.find((other) => other.id === row.treatment_id)?.letter}</td>
                <td>{item.name}</td>
                <td className="num">{item.seeds}</td>
                <td className="num">{item.mass}</td>
                <td className="num">{item.share}</td>
              </tr>
            )),
          )}
        </tbody>
      </table>
    </section>
  );
}
