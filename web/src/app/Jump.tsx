import { useId, useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../api/client";
import { useTrials } from "../api/queries";
import { Dialog } from "../ui/Dialog";
import { STAGE_KEYS } from "./shortcuts";

type Goal = { to: string; name: string; more: string };

/** The words of what is typed that name a trial: those that can mean a stage or a strip are looked for here. */
export const trialWords = (text: string) =>
  text
    .toLowerCase()
    .split(/\s+/)
    .filter((word) => word && !Number(word) && ![...STAGE_KEYS, "strip"].some((key) => key.startsWith(word)))
    .join(" ");

export function goalsOf(trials: Schemas["TrialRowOut"][], text: string): Goal[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const number = words.map(Number).find((value) => Number.isInteger(value) && value > 0 && value < 1000);
  const goals: Goal[] = [];
  for (const trial of trials) {
    const more = `${trial.crop_name}, ${trial.season}`;
    goals.push({
      to: `/trials/${trial.id}/${trial.next_stage}`,
      name: trial.title,
      more: `${more} · ${trial.next_note}`,
    });
    for (const stage of STAGE_KEYS)
      goals.push({ to: `/trials/${trial.id}/${stage}`, name: `${trial.title} › ${stage}`, more });
    if (number && number <= trial.ribbon.blocks.length) {
      goals.push({ to: `/trials/${trial.id}/stand?strip=${number}`, name: `${trial.title} › strip ${number}`, more });
    }
  }
  return goals
    .filter((goal) => words.every((word) => `${goal.name} ${goal.more}`.toLowerCase().includes(word)))
    .sort((a, b) => a.name.split("›").length - b.name.split("›").length)
    .slice(0, 12);
}

/** Type a few letters of a trial, a stage or a strip number; Enter goes to the first. */
export function Jump({ workspaceId, onClose }: { workspaceId: string; onClose: () => void }) {
  const id = useId();
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const navigate = useNavigate();
  const find = trialWords(text);
  const trials = useTrials(workspaceId, find ? { find } : {});
  const goals = goalsOf(trials.data?.rows ?? [], text);
  const go = (goal: Goal | undefined) => {
    if (!goal) return;
    onClose();
    void navigate(goal.to);
  };
  return (
    <Dialog title="Jump to" onClose={onClose}>
      <label htmlFor={id}>Trial, stage or strip number</label>
      <input
        id={id}
        className="entry"
        value={text}
        data-first
        onChange={(event) => {
          setText(event.target.value);
          setAt(0);
        }}
        onKeyDown={(event) => {
          if (event.key === "Enter") go(goals[at]);
          if (event.key === "ArrowDown") setAt((place) => Math.min(place + 1, goals.length - 1));
          if (event.key === "ArrowUp") setAt((place) => Math.max(place - 1, 0));
        }}
      />
      <ul className="mt-2">
        {goals.map((goal, place) => (
          <li key={goal.to}>
            <button
              type="button"
              className={`block w-full px-2 py-1 text-left hover:bg-base-200 ${place === at ? "border-l-4 border-accent bg-base-200" : ""}`}
              onClick={() => go(goal)}
            >
              <span className="font-medium">{goal.name}</span> <span className="muted text-sm">{goal.more}</span>
            </button>
          </li>
        ))}
        {!goals.length && <li className="muted p-2">{trials.isFetching ? "Looking …" : "Nothing by that name."}</li>}
      </ul>
    </Dialog>
  );
}
