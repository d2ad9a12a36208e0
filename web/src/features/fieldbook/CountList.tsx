import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { fixed } from "../../ui/readerUnits";

export type Listed = {
  id: string;
  plants: string;
  plantsPerM2: number;
  place: number | null;
  version: number;
  waiting: boolean;
  refused: string | null;
  questions: string[];
  /** Its moment was corrected, for the device's clock was wrong. */
  corrected?: boolean;
};

type Props = { listed: Listed[]; unit: Schemas["DensityUnitOut"] };

/** The counts of this strip, newest first, each with where it lies: on this device or on the server. */
export function CountList({ listed, unit }: Props) {
  return (
    <ul aria-label="Counts of this strip" className="min-h-10 flex-1 overflow-y-auto">
      {[...listed].reverse().map((item, place) => (
        <li key={item.id} className="border-b border-base-300 px-1">
          <span className="flex justify-between gap-2">
            <span>
              {listed.length - place}. <span className="font-semibold">{item.plants}</span>,{" "}
              {fixed(item.plantsPerM2 / unit.factor, unit.decimals)}
              {unit.label}
              {item.place !== null && <span className="muted">, place {item.place}</span>}
              {item.corrected && <span className="muted"> (time corrected)</span>}
            </span>
            <span className={item.waiting ? "font-semibold" : "muted"}>
              {item.refused ? "refused" : item.waiting ? "this device" : "server"}
            </span>
          </span>
          {item.refused && (
            <span className="block text-error">
              {item.refused}{" "}
              <Link className="inline-block min-h-12 content-center underline" to="/waiting">
                Correct
              </Link>
            </span>
          )}
          {item.questions.map((question) => (
            <span key={question} className="block text-sm font-medium">
              ? {question}
            </span>
          ))}
        </li>
      ))}
    </ul>
  );
}
