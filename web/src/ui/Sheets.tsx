import { type KeyboardEvent, type ReactNode, useRef } from "react";
import { useSearchParams } from "react-router";

type Sheet<Key extends string> = readonly [Key, string];

/** Which sheet of a stage is open; it stands in the address, so that it can be linked to. */
export function useSheet<Key extends string>(sheets: readonly Sheet<Key>[]): [Key, (key: Key) => void] {
  const [search, setSearch] = useSearchParams();
  const asked = search.get("sheet");
  const sheet = (sheets.find(([key]) => key === asked) ?? sheets[0])?.[0] as Key;
  const go = (key: Key) =>
    setSearch(
      (now) => {
        now.set("sheet", key);
        return now;
      },
      { replace: true },
    );
  return [sheet, go];
}

type Props<Key extends string> = {
  label: string;
  sheets: readonly Sheet<Key>[];
  sheet: Key;
  go: (key: Key) => void;
  children: ReactNode;
};

/** The sheets of a stage as tabs; arrows move between them. */
export function Sheets<Key extends string>({ label, sheets, sheet, go, children }: Props<Key>) {
  const bar = useRef<HTMLDivElement>(null);
  function onKey(event: KeyboardEvent<HTMLDivElement>) {
    const step = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
    if (!step) return;
    const place = sheets.findIndex(([key]) => key === sheet);
    const next = sheets[(place + step + sheets.length) % sheets.length];
    if (!next) return;
    event.preventDefault();
    go(next[0]);
    bar.current?.querySelector<HTMLElement>(`#tab-${next[0]}`)?.focus();
  }
  return (
    <>
      <div
        ref={bar}
        role="tablist"
        aria-label={label}
        onKeyDown={onKey}
        className="no-print mt-3 flex flex-wrap gap-x-1 border-b-2 border-base-content"
      >
        {sheets.map(([key, name]) => (
          <button
            key={key}
            id={`tab-${key}`}
            type="button"
            role="tab"
            aria-selected={key === sheet}
            aria-controls="sheet"
            tabIndex={key === sheet ? 0 : -1}
            className={`px-3 py-1.5 ${key === sheet ? "bg-base-content font-semibold text-base-100" : "hover:bg-base-200"}`}
            onClick={() => go(key)}
          >
            {name}
          </button>
        ))}
      </div>
      <div role="tabpanel" id="sheet" aria-labelledby={`tab-${sheet}`} className="pt-3">
        {children}
      </div>
    </>
  );
}
