import { useLayoutEffect, useMemo, useRef } from "react";

export type Acts = {
  digit: (digit: string) => void;
  point?: () => void;
  back: () => void;
  enter: () => void;
  go: (step: number) => void;
  /** A gap or a double, on the keys g and d. */
  gap?: () => void;
  double?: () => void;
};

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
      else if (/^[.,]$/.test(event.key) && latest.current.point) latest.current.point();
      else if (event.key === "g" && latest.current.gap) latest.current.gap();
      else if (event.key === "d" && latest.current.double) latest.current.double();
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
      point: () => latest.current.point?.(),
      back: () => latest.current.back(),
      enter: () => latest.current.enter(),
      go: (step) => latest.current.go(step),
      gap: () => latest.current.gap?.(),
      double: () => latest.current.double?.(),
    }),
    [],
  );
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
