import { ask, client } from "../../../api/client";
import { Problem } from "../../../ui/Problem";
import { writtenMoment } from "../../../ui/writing";
import type { Stage } from "../TrialFrame";

/** What was settled before the result: frozen once, amended with a reason, the original kept. */
export function ProtocolPanel({ stage }: { stage: Stage }) {
  const { trial, write, problems, writable } = stage;
  const protocol = trial.protocol;
  return (
    <section aria-label="Protocol">
      {protocol ? (
        <>
          <p className="border-l-4 border-base-content pl-3">
            Frozen on {writtenMoment(protocol.frozen_at, { year: true })} by {protocol.by}, fingerprint{" "}
            <code>{protocol.fingerprint}</code>. A change from here on is an amendment with a reason; the original
            stays.
          </p>
          <dl className="mt-2 grid grid-cols-[11rem_1fr] gap-x-3 gap-y-0.5">
            {protocol.content.map(([name, text]) => (
              <div key={name} className="contents">
                <dt className="font-semibold first-letter:uppercase">{name}</dt>
                <dd className="break-words">{text}</dd>
              </div>
            ))}
          </dl>
          <h3 className="mt-3">Amendments</h3>
          {protocol.amendments.length === 0 && <p className="muted">None.</p>}
          <ul className="space-y-1.5">
            {protocol.amendments.map((amendment) => (
              <li key={amendment.at} className="sheet p-2">
                <span className="font-semibold">
                  {writtenMoment(amendment.at, { year: true })}, {amendment.by}:
                </span>{" "}
                {amendment.reason}
                {amendment.changes.map(([name, before, after]) => (
                  <span key={name} className="muted block">
                    {name}: “{before || "nothing"}” became “{after || "nothing"}”
                  </span>
                ))}
              </li>
            ))}
          </ul>
        </>
      ) : (
        <>
          <p>
            Question, treatments, primary response, level, margin and layout are frozen together before the result is
            known, with the time and a fingerprint. Costs and prices may still change, openly, as amendments.
          </p>
          {writable && (
            <button
              type="button"
              className="act mt-2"
              onClick={() =>
                void write("protocol", () =>
                  ask(client.POST("/api/trials/{trial_id}/protocol", { params: { path: { trial_id: trial.id } } })),
                )
              }
            >
              Freeze the protocol
            </button>
          )}
          <Problem>{problems.protocol}</Problem>
        </>
      )}
      {trial.layout.draws.length > 0 && (
        <>
          <h3 className="mt-4">Draws of the layout</h3>
          <ol className="list-decimal pl-5">
            {trial.layout.draws.map((draw) => (
              <li key={draw.at}>
                <span className="muted">
                  {writtenMoment(draw.at, { year: true })}, {draw.by}:
                </span>{" "}
                {draw.said}
              </li>
            ))}
          </ol>
        </>
      )}
    </section>
  );
}
