import { useLayoutEffect, useMemo, useRef } from "react";

export type Acts = { digit: (digit: string) => void; back: () => void; enter: () => void; go: (step: number) => void };

/** The book's keys: digits, Enter, Backspace, arrows; silent while a field has the focus. */
export function useKeys(acts: Acts): Acts {
  const latest = useRef(acts);
  latest.current = acts;
  // laid on with the page itself: the first key after opening the book must not be lost
  useLayoutEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target;
      if (event.ctrlKey || event.metaKey || event.altKey || !(target instanceof HTMLElement)) return;
      if (/^(INPUT|SELECT|TEXTAREA|SUMMARY)$/.test(target.tagName)) return;
      const onButton = /^(BUTTON|A)$/.test(target.tagName);
      if (/^\d$/.test(event.key)) latest.current.digit(event.key);
      else if (event.key === "Backspace") latest.current.back();
      else if (event.key === "Enter" && !onButton) latest.current.enter();
      else if (event.key === "ArrowLeft" && !target.dataset.strip) latest.current.go(-1);
      else if (event.key === "ArrowRight" && !target.dataset.strip) latest.current.go(1);
      else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  return useMemo(
    () => ({
      digit: (digit) => latest.current.digit(digit),
      back: () => latest.current.back(),
      enter: () => latest.current.enter(),
      go: (step) => latest.current.go(step),
    }),
    [],
  );
}

const KEY = "plain min-h-14 text-2xl font-semibold";

export function Keypad({ press, recordable }: { press: Acts; recordable: boolean }) {
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
        aria-label="Back: take away the last figure or count"
        onClick={press.back}
      >
        Back
      </button>
      <button type="button" className={KEY} onClick={() => press.digit("0")}>
        0
      </button>
      <button type="button" className="act min-h-14 text-lg" disabled={!recordable} onClick={press.enter}>
        Record
      </button>
    </div>
  );
}
