import { useState } from "react";
import { usePriceLists } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { may } from "../../app/rights";
import { Waiting } from "../../ui/Waiting";
import { PriceListForm } from "./PriceListForm";

/** Prices as they were read, each list with its day and source; trials take their price from one. */
export function PriceLists() {
  const { workspace } = useHere();
  const lists = usePriceLists(workspace.id);
  const [open, setOpen] = useState("");
  const writable = may(workspace, "prices");
  return (
    <section aria-labelledby="prices">
      <h1 id="prices">Price lists</h1>
      <Waiting query={lists} />
      <ul className="sheet divide-y divide-base-300">
        {lists.data?.map((list) => (
          <li key={list.id} className="px-2.5 py-1.5">
            <div className="flex justify-between gap-3">
              <span>
                <b>{list.name}</b>, {list.dated}
                {list.retired && " (retired)"} <span className="muted">{list.source}</span>
              </span>
              <button
                type="button"
                className="underline"
                aria-expanded={open === list.id}
                onClick={() => setOpen(open === list.id ? "" : list.id)}
              >
                {open === list.id ? "Close" : "Open"}
                <span className="sr-only"> {list.name}</span>
              </button>
            </div>
            <p className="muted text-sm">{list.items.map((item) => `${item.name} ${item.price.shown}`).join("; ")}</p>
            {open === list.id && (
              <PriceListForm key={list.version} list={list} writable={writable} done={() => setOpen("")} />
            )}
          </li>
        ))}
        {lists.data && !lists.data.length && (
          <li className="muted px-2.5 py-1.5">
            No list yet. A list keeps prices with the day and place they were read.
          </li>
        )}
      </ul>
      {writable &&
        (open === "new" ? (
          <PriceListForm list={null} writable done={() => setOpen("")} />
        ) : (
          <button type="button" className="plain mt-2" onClick={() => setOpen("new")}>
            Add a price list
          </button>
        ))}
    </section>
  );
}
