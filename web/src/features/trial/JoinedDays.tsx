import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type Schemas } from "../../api/client";
import { useTrialChanged } from "../../api/queries";
import { faultOf, useSaving } from "../../app/saving";
import { Problem } from "../../ui/Problem";
import { writtenDay } from "../../ui/writing";
import { VoidRecord } from "./VoidRecord";

type Task = Schemas["JoinedVisitIn"]["task"];
type Props = {
  trialId: string;
  writable: boolean;
  task: Task;
  /** Days to begin with in the form. */
  days?: { first: string; last: string };
  /** What a table leaves out for being of another day, in words. */
  leftOut: string[];
};

/** Every day is a visit, unless a person says that days belong together; and what a table of one visit leaves out. */
export function JoinedDays({ trialId, writable, task, days, leftOut }: Props) {
  const joined = useQuery({
    queryKey: ["joined-visits", trialId],
    queryFn: () => ask(client.GET("/api/trials/{trial_id}/joined-visits", { params: { path: { trial_id: trialId } } })),
  });
  const own = (joined.data ?? []).filter((visit) => visit.task === task);
  if (!writable && !own.length && !leftOut.length) return null;
  return (
    <section aria-label="Days of a visit" className="my-2 max-w-3xl">
      {leftOut.map((text) => (
        <p key={text} className="font-medium">
          {text}
        </p>
      ))}
      {own.map((visit) => (
        <p key={visit.id}>
          {writtenDay(visit.first_on)} to {writtenDay(visit.last_on)} are one visit
          {visit.note && ` (${visit.note})`}, joined by {visit.recorded_by}.{" "}
          {writable && (
            <VoidRecord
              trialId={trialId}
              kind="joined-visit"
              record={visit}
              what={`the joining of ${writtenDay(visit.first_on)} and ${writtenDay(visit.last_on)}`}
            />
          )}
        </p>
      ))}
      {writable && (
        <JoinForm
          trialId={trialId}
          task={task}
          days={days}
          open={leftOut.some((text) => text.includes("Join the days"))}
        />
      )}
    </section>
  );
}

function JoinForm({ trialId, task, days, open }: Pick<Props, "trialId" | "task" | "days"> & { open: boolean }) {
  const changed = useTrialChanged(trialId);
  const { save } = useSaving();
  const [first, setFirst] = useState<string | null>(null);
  const [last, setLast] = useState<string | null>(null);
  const [problem, setProblem] = useState("");
  const from = first ?? days?.first ?? "";
  const to = last ?? days?.last ?? "";
  async function join() {
    try {
      await save(() =>
        ask(
          client.PUT("/api/trials/{trial_id}/joined-visits/{record_id}", {
            params: { path: { trial_id: trialId, record_id: crypto.randomUUID() } },
            body: { task, first_on: from, last_on: to, note: "", recorded_at: new Date().toISOString() },
          }),
        ),
      );
      setProblem("");
      setFirst(null);
      setLast(null);
      changed();
    } catch (error) {
      setProblem(faultOf(error).message);
    }
  }
  return (
    <details open={open}>
      <summary className="cursor-pointer underline">Join days to one visit</summary>
      <p className="muted">A day is a visit of its own. Join days only when one count took several.</p>
      <div className="flex flex-wrap items-end gap-3">
        <label>
          First day
          <input type="date" className="entry" value={from} onChange={(event) => setFirst(event.target.value)} />
        </label>
        <label>
          Last day
          <input type="date" className="entry" value={to} onChange={(event) => setLast(event.target.value)} />
        </label>
        <button type="button" className="act" disabled={!from || !to} onClick={() => void join()}>
          Join days
        </button>
      </div>
      <Problem>{problem}</Problem>
    </details>
  );
}
