import type { UseQueryResult } from "@tanstack/react-query";
import { faultOf } from "../app/saving";

/** What to show instead of an answer: that it is on its way, or what went wrong and a way to try again. */
export function Waiting({ query }: { query: Pick<UseQueryResult<unknown>, "isPending" | "error" | "refetch"> }) {
  if (query.error) {
    return (
      <p role="alert" className="caution my-2">
        {faultOf(query.error).message}{" "}
        <button type="button" className="plain" onClick={() => void query.refetch()}>
          Try again
        </button>
      </p>
    );
  }
  return query.isPending ? <p className="muted my-2">Fetching …</p> : null;
}
