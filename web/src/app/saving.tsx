import { createContext, type ReactNode, useCallback, useContext, useMemo, useRef, useState } from "react";
import { Fault } from "../api/client";

type State = "idle" | "saving" | "saved" | "failed";
type Undo = { label: string; run: () => Promise<unknown> };
type Saving = {
  state: State;
  message: string;
  undo: Undo | null;
  /** Run a write with visible state. Rethrows, so that the caller can place the message by its field. */
  save: <T>(work: () => Promise<T>, undo?: Undo) => Promise<T>;
  takeBack: () => Promise<void>;
};

const Context = createContext<Saving | null>(null);

export function SavingProvider({ children }: { children: ReactNode }) {
  const [state, setState] = useState<State>("idle");
  const [message, setMessage] = useState("");
  const undos = useRef<Undo[]>([]);
  const [undo, setUndo] = useState<Undo | null>(null);

  const attempt = useCallback(async <T,>(work: () => Promise<T>): Promise<T> => {
    setState("saving");
    try {
      const result = await work();
      setState("saved");
      setMessage("");
      return result;
    } catch (error) {
      setState("failed");
      setMessage(error instanceof Fault ? error.message : "Something went wrong here. What you typed is kept.");
      throw error;
    }
  }, []);

  const save = useCallback(
    async <T,>(work: () => Promise<T>, back?: Undo): Promise<T> => {
      const result = await attempt(work);
      if (back) {
        undos.current.push(back);
        setUndo(back);
      }
      return result;
    },
    [attempt],
  );

  const takeBack = useCallback(async () => {
    const last = undos.current.pop();
    setUndo(undos.current.at(-1) ?? null);
    if (last) await attempt(last.run).catch(() => undefined);
  }, [attempt]);

  const value = useMemo(() => ({ state, message, undo, save, takeBack }), [state, message, undo, save, takeBack]);
  return <Context.Provider value={value}>{children}</Context.Provider>;
}

export function useSaving(): Saving {
  const saving = useContext(Context);
  if (!saving) throw new Error("useSaving outside SavingProvider");
  return saving;
}

/** Words for a failed write, for placing beside the field it concerns. */
export function faultOf(error: unknown): { field: string | null; message: string } {
  if (error instanceof Fault) return { field: error.field, message: error.message };
  return { field: null, message: "Something went wrong here. What you typed is kept." };
}
