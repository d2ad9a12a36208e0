import type { Schemas } from "../../api/client";
import { writtenMoment } from "../../ui/writing";

type Entry = Schemas["HistoryEntryOut"];
/** Kinds that are told in a sentence of their own, and not as something done to a row. */
const SAID = new Set(["sign_in", "export", "people", "settings", "plan", "prices", "weather", "merge", "leaving"]);
const UNSAID = ["recorded", "changed", "added"];

export const changeWords = (entry: Entry) =>
  entry.changes.map(({ name, before, after }) => `${name}: ${before ? `${before} → ` : ""}${after || "nothing"}`);

/** What was done, the latest first: who, when, from what to what, and why. */
export function Entries({ entries }: { entries: Entry[] }) {
  return (
    <ol className="mt-2 divide-y divide-base-300">
      {entries.map((entry) => (
        <li
          key={`${entry.at}${entry.kind}${entry.strip}${entry.action}${changeWords(entry).join()}`}
          className="grid gap-x-4 py-1.5 sm:grid-cols-[11rem_1fr]"
        >
          <span className="muted">{writtenMoment(entry.at, { year: true })}</span>
          <div className="min-w-0">
            <p>
              <b>{entry.by || "The application"}</b> {entry.action}
              {!SAID.has(entry.kind) && ` ${entry.what.slice(0, 1).toLowerCase()}${entry.what.slice(1)}`}
              {entry.strip !== null && ` of strip ${entry.strip}`}
              {entry.reason && !UNSAID.includes(entry.reason) && <span className="muted">, {entry.reason}</span>}
            </p>
            {entry.changes.length > 0 && <p className="break-words text-sm">{changeWords(entry).join(" · ")}</p>}
          </div>
        </li>
      ))}
    </ol>
  );
}
