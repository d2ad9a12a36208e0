import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { ask, client, type Schemas, type Typed } from "../../api/client";
import { faultOf, useSaving } from "../../app/saving";
import { ChoiceField, QuantityField, TextField } from "../../ui/fields";
import { Problem } from "../../ui/Problem";
import { blankIn, type ReaderUnits, useCropChoices } from "../../ui/readerUnits";

type Lot = Schemas["SeedLotOut"];
type Draft = Schemas["SeedLotIn"];

const plain = (typed: Typed): Typed => ({ text: typed.text, unit: typed.unit });

function draftOf(lot: Lot | null, crop: string, reader: ReaderUnits): Draft {
  if (!lot)
    return {
      crop,
      name: "",
      tag: "",
      thousand_seed_weight: blankIn(reader, "seed_mass"),
      weight_of: "bare",
      germination: { text: "", unit: "%" },
      tested_on: null,
      hard_seed: { text: "", unit: "%" },
      purity: { text: "", unit: "%" },
      purity_of: "seed",
      coating: { text: "", unit: "%" },
      treated: false,
      treatment: "",
      bag_price: { text: "", unit: "money" },
      bag_seeds: { text: "", unit: "" },
      bag_weight: blankIn(reader, "mass"),
    };
  return {
    ...lot,
    thousand_seed_weight: plain(lot.thousand_seed_weight),
    germination: plain(lot.germination),
    hard_seed: plain(lot.hard_seed),
    purity: plain(lot.purity),
    coating: plain(lot.coating),
    bag_price: plain(lot.bag_price),
    bag_seeds: plain(lot.bag_seeds),
    bag_weight: plain(lot.bag_weight),
  };
}

/** Where a lot belongs and how its reader types. */
export type Home = { workspaceId: string; reader: ReaderUnits; currency: string };
type Props = { home: Home; lot: Lot | null; crop: string; onDone: () => void };

/** A lot as its tag tells it; new, or an old one mended. */
export function LotForm({ home, lot, crop, onDone }: Props) {
  const cache = useQueryClient();
  const { save } = useSaving();
  const [draft, setDraft] = useState(() => draftOf(lot, crop, home.reader));
  const [reason, setReason] = useState("");
  const [problem, setProblem] = useState<{ field: string | null; message: string; code?: string } | null>(null);
  const wrong = (name: string) => (problem?.field === name ? problem.message : null);
  const put = (part: Partial<Draft>) => setDraft((now) => ({ ...now, ...part }));

  async function keep(event: FormEvent) {
    event.preventDefault();
    const { crop: _, ...tag } = draft;
    try {
      await save(() =>
        lot
          ? ask(
              client.PATCH("/api/seed-lots/{lot_id}", {
                params: { path: { lot_id: lot.id } },
                body: { ...tag, version: lot.version, amendment: reason },
              }),
            )
          : ask(
              client.POST("/api/workspaces/{workspace_id}/seed-lots", {
                params: { path: { workspace_id: home.workspaceId } },
                body: draft,
              }),
            ),
      );
      // what trials make of the lot follows it
      for (const key of ["seed-lots", "seed", "trial", "trials", "calibrations", "planting"])
        void cache.invalidateQueries({ queryKey: [key] });
      onDone();
    } catch (error) {
      setProblem(faultOf(error));
    }
  }

  const quantity = (
    name:
      | "thousand_seed_weight"
      | "germination"
      | "hard_seed"
      | "purity"
      | "coating"
      | "bag_price"
      | "bag_seeds"
      | "bag_weight",
    label: string,
    dimension: string,
    hint?: string,
  ) => (
    <QuantityField
      label={label}
      dimension={dimension}
      reader={home.reader}
      currency={dimension === "money" ? home.currency : undefined}
      value={draft[name] ?? { text: "", unit: "" }}
      error={wrong(name)}
      hint={hint}
      onCommit={(value) => put({ [name]: value })}
    />
  );
  const placed = ["name", "tag", "thousand_seed_weight", "germination", "hard_seed", "purity", "coating"];
  return (
    <form
      onSubmit={keep}
      aria-label={lot ? `Seed lot ${lot.title}` : "New seed lot"}
      className="sheet mt-2 grid grid-cols-2 items-start gap-3 p-3 md:grid-cols-4"
    >
      <ChoiceField
        label="Crop"
        value={draft.crop}
        disabled={Boolean(lot)}
        options={useCropChoices()}
        onCommit={(value) => put({ crop: value })}
      />
      <TextField label="Variety" value={draft.name} error={wrong("name")} onCommit={(name) => put({ name })} />
      <TextField
        label="Number on the tag"
        value={draft.tag ?? ""}
        error={wrong("tag")}
        onCommit={(tag) => put({ tag })}
      />
      <TextField
        label="Germination tested on"
        type="date"
        value={draft.tested_on ?? ""}
        onCommit={(day) => put({ tested_on: day || null })}
      />
      {quantity("thousand_seed_weight", "Weight of seed", "seed_mass")}
      <ChoiceField
        label="That weight is of"
        value={draft.weight_of ?? "bare"}
        options={[
          ["bare", "the bare seed"],
          ["coated", "the seed with its coating"],
        ]}
        onCommit={(value) => put({ weight_of: value as Draft["weight_of"] })}
      />
      {quantity("germination", "Germination", "percent")}
      {quantity("hard_seed", "Hard seed", "percent", "Counted as live in lucerne and clovers.")}
      {quantity("purity", "Pure seed", "percent")}
      <ChoiceField
        label="That purity is of"
        value={draft.purity_of ?? "seed"}
        options={[
          ["seed", "the seed without coating"],
          ["bag", "the whole bag"],
        ]}
        onCommit={(value) => put({ purity_of: value as Draft["purity_of"] })}
      />
      {quantity("coating", "Coating, share of the weight", "percent", "Clay about 32 %, polymer 8–10 %.")}
      <div>
        <label className="flex items-center gap-2 pt-6">
          <input
            type="checkbox"
            checked={draft.treated ?? false}
            onChange={(event) => put({ treated: event.target.checked })}
          />
          Treated seed
        </label>
      </div>
      {draft.treated && (
        <TextField label="Treated with" value={draft.treatment ?? ""} onCommit={(treatment) => put({ treatment })} />
      )}
      {quantity("bag_price", "Price of a bag", "money")}
      {quantity("bag_weight", "Weight of a bag", "mass")}
      {quantity("bag_seeds", "or seeds in a bag", "count")}
      {lot && (
        <TextField
          label="Reason, if a frozen trial sows it"
          value={reason}
          onCommit={setReason}
          hint="It is kept with the amendment."
        />
      )}
      <div className="col-span-full flex items-center gap-3">
        <button type="submit" className="act">
          {lot ? "Keep the lot" : "Add the lot"}
        </button>
        <button type="button" className="plain" onClick={onDone}>
          Leave it
        </button>
        <Problem>{problem && !placed.includes(problem.field ?? "") && problem.message}</Problem>
      </div>
    </form>
  );
}
