import { NavLink } from "react-router";
import type { Schemas } from "../api/client";

const STATE_WORDS = { done: "done", partly: "partly done", due: "due", ahead: "not yet" };

/** A flag where something is due, a filled, half-filled or open peg elsewhere. */
function Peg({ state }: { state: Schemas["StageOut"]["state"] }) {
  return (
    <svg viewBox="0 0 14 14" className="h-3.5 w-3.5 shrink-0" aria-hidden="true">
      {state === "due" ? (
        <>
          <path d="M3 1v12" stroke="currentColor" strokeWidth="1.6" />
          <path d="M4 1.5h9l-3 3 3 3H4z" fill="var(--color-accent)" stroke="currentColor" strokeWidth="0.8" />
        </>
      ) : (
        <>
          <rect
            x="2"
            y="2"
            width="10"
            height="10"
            fill={state === "done" ? "currentColor" : "none"}
            stroke="currentColor"
            strokeWidth="1.6"
          />
          {state === "partly" && <path d="M2 12L12 2V12z" fill="currentColor" />}
        </>
      )}
    </svg>
  );
}

/** The ten stages in the order people work; any of them opens at any time. */
export function SeasonLine({ trialId, stages }: { trialId: string; stages: Schemas["StageOut"][] }) {
  return (
    <nav aria-label="Season line" className="no-print overflow-x-auto">
      <ol className="flex border-b-2 border-base-content">
        {stages.map((stage) => (
          <li key={stage.key} className="min-w-24 flex-1">
            <NavLink
              to={`/trials/${trialId}/${stage.key}`}
              title={`${stage.label}: ${STATE_WORDS[stage.state]}, ${stage.note}`}
              className={({ isActive }) =>
                `block h-full border-t-4 px-1.5 py-1 ${isActive ? "border-accent bg-(--paper)" : "border-transparent hover:bg-base-200"}`
              }
            >
              <span className="flex items-center gap-1.5 font-semibold">
                <Peg state={stage.state} />
                {stage.label}
                <span className="sr-only">, {STATE_WORDS[stage.state]}</span>
              </span>
              <span className="muted block truncate text-xs">{stage.note}</span>
            </NavLink>
          </li>
        ))}
      </ol>
    </nav>
  );
}
