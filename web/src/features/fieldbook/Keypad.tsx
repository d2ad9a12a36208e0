import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";

/** What a key does; a promise while something is written, false where it could not be. */
type Done = unknown;
export type Acts = {
  digit: (digit: string) => Done;
  point?: () => Done;
  back: () => Done;
  enter: () => Done;
  go: (step: number) => Done;
  /** A gap or a double, on the keys g and d. */
  gap?: () => Done;
  double?: () => Done;
};

/**
 * Keys one after the other: what is pressed while a record is being written waits until the device has confirmed it, so that
 * the entry stays on the screen until then and no figure of the next one is lost.
 */
function useTurns() {
  const waiting = useRef<(() => Done)[]>([]);
  const busy = useRef(false);
  const [turn, setTurn] = useState(0);
  const act = useCallback((press: () => Done) => {
    if (busy.current || waiting.current.length) {
      waiting.current.push(press);
      return;
    }
    const done = press();
    if (!(done instanceof Promise)) return;
    busy.current = true;
    void done
      .then((kept) => {
        if (kept === false) waiting.current = []; // not written: the entry stands, and what followed it is typed anew
      })
      .finally(() => {
        busy.current = false;
        setTurn((now) => now + 1);
      });
  }, []);
  // one a turn, so that each key finds the page as the one before has left it
  // biome-ignore lint/correctness/useExhaustiveDependencies: a turn is what it waits for
  useEffect(() => {
    if (busy.current) return;
    const next = waiting.current.shift();
    if (!next) return;
    const rest = waiting.current;
    waiting.current = [];
    act(next);
    waiting.current = [...waiting.current, ...rest];
    if (!busy.current && waiting.current.length) setTurn((now) => now + 1);
  }, [turn]);
  return act;
}

/** A number as it stands after one more digit; a leading 0 gives way, and it grows to so many characters at most. */
export const withDigit = (digit: string, most: number) => (typed: string) =>
  typed === "0" ? digit : (typed + digit).slice(0, most);
/** The same after the decimal point, which it has once. */
export const withPoint = (typed: string) => (typed.includes(".") ? typed : `${typed || "0"}.`);

/** The book's keys: digits, Enter, Backspace, arrows; silent while a field has the focus. */
export function useKeys(acts: Acts): Acts {
  const latest = useRef(acts);
  latest.current = acts;
  const act = useTurns();
  const press: Acts = useMemo(
    () => ({
      digit: (digit) => act(() => latest.current.digit(digit)),
      point: () => act(() => latest.current.point?.()),
      back: () => act(() => latest.current.back()),
      enter: () => act(() => latest.current.enter()),
      go: (step) => act(() => latest.current.go(step)),
      gap: () => act(() => latest.current.gap?.()),
      double: () => act(() => latest.current.double?.()),
    }),
    [act],
  );
  // laid on with the page itself: the first key after opening the book must not be lost
  useLayoutEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target;
      if (event.ctrlKey || event.metaKey || event.altKey || !(target instanceof HTMLElement)) return;
      if (/^(INPUT|SELECT|TEXTAREA|SUMMARY)$/.test(target.tagName)) return;
      const onButton = /^(BUTTON|A)$/.test(target.tagName);
      if (/^\d$/.test(event.key)) press.digit(event.key);
      else if (/^[.,]$/.test(event.key) && latest.current.point) press.point?.();
      else if (event.key === "g" && latest.current.gap) press.gap?.();
      else if (event.key === "d" && latest.current.double) press.double?.();
      else if (event.key === "Backspace") press.back();
      else if (event.key === "Enter" && !onButton) press.enter();
      else if (event.key === "ArrowLeft" && !target.dataset.strip) press.go(-1);
      else if (event.key === "ArrowRight" && !target.dataset.strip) press.go(1);
      else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [press]);
  return press;
}

const KEY = "plain min-h-14 text-2xl font-semibold";

/** `recordable` null: other buttons of the task record, the pad only types. */
type Props = { press: Acts; recordable: boolean | null; decimals?: boolean; what?: string; act?: string };

export function Keypad({ press, recordable, decimals = false, what = "count", act = "Record" }: Props) {
  return (
    <div role="group" aria-label="Keypad" className="mt-1 grid grid-cols-3 gap-1.5">
      {["1", "2", "3", "4", "5", "6", "7", "8", "9"].map((digit) => (
        <button key={digit} type="button" className={KEY} onClick={() => press.digit(digit)}>
          {digit}
        </button>
      ))}
      <button
        type="button"
        className={`${KEY} text-base`}
        aria-label={`Back: take away the last figure or ${what}`}
        onClick={press.back}
      >
        Back
      </button>
      <span className={decimals ? "grid grid-cols-2 gap-1.5" : "grid"}>
        <button type="button" className={KEY} onClick={() => press.digit("0")}>
          0
        </button>
        {decimals && (
          <button type="button" className={KEY} aria-label="Decimal point" onClick={() => press.point?.()}>
            .
          </button>
        )}
      </span>
      {recordable !== null && (
        <button type="button" className="act min-h-14 text-lg" disabled={!recordable} onClick={press.enter}>
          {act}
        </button>
      )}
    </div>
  );
}
