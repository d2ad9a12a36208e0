import { createContext, type ReactNode, useContext, useEffect, useMemo, useRef, useState } from "react";
import type { Working } from "../api/client";
import { WorkingTable } from "./WorkingTable";

type Drawer = { working: Working | null; open: (working: Working) => void; close: () => void };
const Context = createContext<Drawer | null>(null);

export function WorkingProvider({ children }: { children: ReactNode }) {
  const [working, setWorking] = useState<Working | null>(null);
  const opener = useRef<Element | null>(null);
  const value = useMemo<Drawer>(
    () => ({
      working,
      open: (next) => {
        opener.current = document.activeElement;
        setWorking(next);
      },
      close: () => {
        setWorking(null);
        if (opener.current instanceof HTMLElement) opener.current.focus();
      },
    }),
    [working],
  );
  return <Context.Provider value={value}>{children}</Context.Provider>;
}

export function useWorking(): Drawer {
  const drawer = useContext(Context);
  if (!drawer) throw new Error("useWorking outside WorkingProvider");
  return drawer;
}

/** A computed number that opens its arithmetic. */
export function Worked({ working, children }: { working: Working | null | undefined; children: ReactNode }) {
  const drawer = useWorking();
  if (!working) return <>{children}</>;
  return (
    <button
      type="button"
      className="worked"
      data-worked
      title="Show the working (w)"
      onClick={() => drawer.open(working)}
    >
      {children}
    </button>
  );
}

/** The arithmetic itself, as a sheet at the right; Escape closes it. */
export function WorkingDrawer() {
  const { working, close } = useWorking();
  const closer = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    if (!working) return;
    closer.current?.focus();
    const onKey = (event: KeyboardEvent) => event.key === "Escape" && close();
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [working, close]);
  if (!working) return null;
  return (
    <aside
      aria-label="The working"
      className="no-print fixed right-0 top-0 z-30 h-full w-[420px] max-w-full overflow-y-auto border-l-4 border-base-content bg-base-100 p-4"
    >
      <div className="mb-2 flex items-start justify-between gap-3">
        <div>
          <p className="muted">The working</p>
          <h2>{working.title}</h2>
        </div>
        <button ref={closer} type="button" className="plain" onClick={close}>
          Close
        </button>
      </div>
      <ol className="space-y-3">
        {working.steps.map((step, index) => (
          <li key={step.label} className="sheet p-2">
            <p className="font-semibold">
              {index + 1}. {step.label}
            </p>
            <p className="muted">{step.formula}</p>
            <p className="mt-1 border-l-2 border-base-300 pl-2">{step.numbers}</p>
            <p className="mt-1 font-semibold">= {step.outcome}</p>
            {step.source && <p className="muted mt-1 text-sm">Source: {step.source}</p>}
          </li>
        ))}
      </ol>
      <WorkingTable rows={working.table} />
      {working.assumption && (
        <p className="caution mt-3">
          <span className="font-semibold">What moves it most. </span>
          {working.assumption}
        </p>
      )}
    </aside>
  );
}
