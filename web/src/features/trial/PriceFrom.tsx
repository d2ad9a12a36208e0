import { useState } from "react";
import { ask, client } from "../../api/client";
import { usePriceLists } from "../../api/queries";
import { TextField } from "../../ui/fields";
import type { Stage } from "./TrialFrame";

/** Where the price was read, and a way to take it from a list that carries its date and source. */
export function PriceFrom({ trial, edit, write, problems, writable }: Stage) {
  const lists = usePriceLists(trial.workspace_id);
  const [chosen, setChosen] = useState("");
  const offers = (lists.data ?? [])
    .filter((list) => !list.retired)
    .flatMap((list) =>
      list.items
        .filter((item) => item.kind === "crop" && item.crop === trial.crop)
        .map((item) => ({ id: String(item.id), words: `${item.price.shown}, ${list.name} ${list.dated}` })),
    );
  const take = () =>
    void write("price", (version, amendment) =>
      ask(
        client.POST("/api/trials/{trial_id}/price", {
          params: { path: { trial_id: trial.id } },
          body: { version, item_id: Number(chosen || offers[0]?.id), amendment },
        }),
      ),
    );
  return (
    <>
      <TextField
        label="Where the price was read"
        value={trial.price_source}
        disabled={!writable}
        error={problems.price_source}
        onCommit={(price_source) => void edit({ price_source }, "source of the price")}
      />
      {writable && offers.length > 0 && (
        <div>
          <label htmlFor="from-list">Price in a list</label>
          <div className="flex">
            <select id="from-list" className="entry" value={chosen} onChange={(event) => setChosen(event.target.value)}>
              {offers.map((offer) => (
                <option key={offer.id} value={offer.id}>
                  {offer.words}
                </option>
              ))}
            </select>
            <button type="button" className="plain shrink-0" onClick={take}>
              Take it
            </button>
          </div>
        </div>
      )}
    </>
  );
}
