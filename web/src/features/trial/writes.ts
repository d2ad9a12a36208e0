import { useCallback, useRef, useState } from "react";
import { ask, client, Fault, type Schemas, type Trial, type Typed } from "../../api/client";
import { useTrialChanged } from "../../api/queries";
import { useSaving } from "../../app/saving";

type Patch = Omit<Schemas["TrialPatchIn"], "version" | "amendment">;
type Run = (version: number, amendment: string) => Promise<Trial>;
type Waiting = { field: string; message: string; run: Run };

export type Writes = {
  /** Messages by field of the last refused writes. */
  problems: Record<string, string>;
  /** Change fields of the trial; refused values keep what was typed and say why by their field. */
  edit: (patch: Patch, label: string) => Promise<void>;
  /** Say by a field why what was typed there cannot be sent. */
  refuse: (field: string, message: string) => void;
  /** Any other write to the trial, one after the other, each with the version the one before left. */
  write: (field: string, run: Run, undo?: { label: string; run: Run }) => Promise<Trial | null>;
  /** A change to the frozen protocol that waits for its reason; `settle` sends it with one, or drops it. */
  frozen: { message: string; settle: (reason: string | null) => void } | null;
};

const typedOf = (value: Typed): Typed => ({ text: value.text, unit: value.unit });

/** What the patched fields held before, to take a change back. */
function before(trial: Trial, patch: Patch): Patch {
  const old: Record<string, unknown> = {};
  for (const key of Object.keys(patch)) {
    if (key === "field_id") old[key] = trial.field?.id ?? null;
    else {
      const value = trial[key as keyof Trial];
      old[key] = value !== null && typeof value === "object" && "text" in value ? typedOf(value as Typed) : value;
    }
  }
  return old as Patch;
}

export function useTrialWrites(trial: Trial): Writes {
  const changed = useTrialChanged(trial.id);
  const { save } = useSaving();
  const [problems, setProblems] = useState<Record<string, string>>({});
  const [waiting, setWaiting] = useState<Waiting | null>(null);
  const latest = useRef(trial);
  if (trial.version >= latest.current.version) latest.current = trial;
  const line = useRef<Promise<unknown>>(Promise.resolve());

  const send = useCallback(
    (field: string, run: Run, undo: { label: string; run: Run } | undefined, amendment: string) => {
      const attempt = async () => {
        const done = async (work: Run) => {
          const fresh = await work(latest.current.version, amendment);
          latest.current = fresh;
          changed(fresh);
          return fresh;
        };
        try {
          const fresh = await save(() => done(run), undo && { label: undo.label, run: () => done(undo.run) });
          setProblems(({ [field]: _, ...others }) => others);
          return fresh;
        } catch (error) {
          if (!(error instanceof Fault)) throw error;
          if (error.code === "stale") changed();
          if (error.code === "frozen") setWaiting({ field, message: error.message, run });
          setProblems((now) => ({ ...now, [field]: error.message }));
          return null;
        }
      };
      const next = line.current.then(attempt, attempt);
      line.current = next;
      return next;
    },
    [changed, save],
  );
  const write: Writes["write"] = useCallback((field, run, undo) => send(field, run, undo, ""), [send]);
  const settle = (reason: string | null) => {
    setWaiting(null);
    if (waiting && reason) void send(waiting.field, waiting.run, undefined, reason);
  };

  const edit: Writes["edit"] = useCallback(
    async (patch, label) => {
      const old = before(latest.current, patch);
      const patched = (body: Patch) => (version: number, amendment: string) =>
        ask(
          client.PATCH("/api/trials/{trial_id}", {
            params: { path: { trial_id: trial.id } },
            body: { ...body, version, amendment },
          }),
        );
      await write(Object.keys(patch)[0] ?? "", patched(patch), { label, run: patched(old) });
    },
    [trial.id, write],
  );

  const refuse: Writes["refuse"] = useCallback(
    (field, message) => setProblems((now) => ({ ...now, [field]: message })),
    [],
  );

  return { problems, edit, refuse, write, frozen: waiting && { message: waiting.message, settle } };
}
