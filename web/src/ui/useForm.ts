import { type FormEvent, useState } from "react";
import { faultOf } from "../app/saving";

type Problem = { field: string | null; message: string };

/** The entries of a form that is sent as a whole, what was wrong with one of them, and whether it is on its way. */
export function useForm<Entries extends Record<string, string>>(
  first: Entries,
  send: (entries: Entries) => Promise<void>,
) {
  const [entries, setEntries] = useState(first);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [busy, setBusy] = useState(false);
  async function submit(event: FormEvent) {
    event.preventDefault();
    setBusy(true);
    setProblem(null);
    try {
      await send(entries);
    } catch (error) {
      setProblem(faultOf(error));
    } finally {
      setBusy(false);
    }
  }
  const named = Object.keys(first);
  return {
    entries,
    busy,
    submit,
    put: (changes: Partial<Entries>) => setEntries((now) => ({ ...now, ...changes })),
    clear: () => setEntries(first),
    /** Value, change and error of one entry, for its field. */
    of: (name: keyof Entries & string) => ({
      value: entries[name] ?? "",
      onChange: (value: string) => setEntries((now) => ({ ...now, [name]: value })),
      error: problem?.field === name ? problem.message : null,
    }),
    /** What is wrong with the whole, or with something that has no field here. */
    trouble: problem && !named.includes(problem.field ?? "") ? problem.message : "",
  };
}
