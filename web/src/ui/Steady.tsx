import { useIsFetching } from "@tanstack/react-query";
import { type ReactNode, useEffect, useState } from "react";

/** A pause after the last first answer, for what asks only once that is there. */
const SETTLE_MS = 60;
/** A server that takes longer than this is slow: then what there is is shown, and the rest when it comes. */
const LONGEST_MS = 6_000;

/**
 * A place is shown once what it asks first has been answered, all at once: an answer that comes a moment later must not move a
 * link from under somebody's finger. Later answers change what is there and do not put it off again.
 */
export function Steady({ children }: { children: ReactNode }) {
  const pending = useIsFetching({ predicate: (query) => query.state.status === "pending" });
  const [shown, setShown] = useState(false);
  useEffect(() => {
    if (shown || pending) return;
    const timer = setTimeout(() => setShown(true), SETTLE_MS);
    return () => clearTimeout(timer);
  }, [shown, pending]);
  useEffect(() => {
    const timer = setTimeout(() => setShown(true), LONGEST_MS);
    return () => clearTimeout(timer);
  }, []);
  return (
    <>
      {!shown && (
        <p className="muted fixed px-3 py-2" aria-live="polite">
          Loading …
        </p>
      )}
      <div className={shown ? "contents" : "invisible"} aria-busy={!shown}>
        {children}
      </div>
    </>
  );
}
