import { Link } from "react-router";
import { useToday, useTrials } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { Flag } from "../../ui/marks";
import { Waiting } from "../../ui/Waiting";
import { TrialLine } from "../trials/TrialLine";

/** What is due across trials, most urgent first, with the reason; then what stands finished. */
export function Today() {
  const { person, workspace } = useHere();
  const today = useToday(workspace.id);
  const trials = useTrials(workspace.id);
  const dues = today.data ?? [];
  const called = (trials.data ?? []).filter((trial) => trial.stages.at(-1)?.state === "done").slice(0, 4);
  return (
    <div className="grid gap-6 lg:grid-cols-[3fr_2fr]">
      <section aria-labelledby="due">
        <h1 id="due">Due at {workspace.name}</h1>
        <p className="muted mb-2">{person.name}, most urgent first.</p>
        <Waiting query={today} />
        {today.data && !dues.length && (
          <p className="sheet p-3">
            Nothing is due.{" "}
            <Link className="worked" to="/trials/new">
              Ask a new question
            </Link>
            , or look through{" "}
            <Link className="worked" to="/trials">
              the shelf
            </Link>
            .
          </p>
        )}
        <ol className="sheet divide-y divide-base-300">
          {dues.map((due) => (
            <li key={due.trial_id + due.stage} className="flex items-start gap-3 p-2.5">
              <Flag className={due.urgency < 4 ? "h-6 w-6" : "h-6 w-6 opacity-30"} />
              <div className="min-w-0 flex-1">
                <p className="font-semibold">{due.trial_title}</p>
                <p>{due.what}</p>
                <p className="muted text-sm">{due.why}</p>
              </div>
              <Link className="plain shrink-0" to={`/trials/${due.trial_id}/${due.stage}`}>
                Open {due.stage_label}
                <span className="sr-only"> of {due.trial_title}</span>
              </Link>
            </li>
          ))}
        </ol>
      </section>
      <section aria-labelledby="called">
        <h2 id="called" className="mb-2 mt-1">
          Verdicts in hand
        </h2>
        {!called.length && <p className="muted">None yet. The first comes with the first harvest.</p>}
        <div className="space-y-3">
          {called.map((trial) => (
            <TrialLine key={trial.id} trial={trial} to="verdict" />
          ))}
        </div>
      </section>
    </div>
  );
}
