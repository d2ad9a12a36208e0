import { useLayoutEffect } from "react";
import { useLocation, useNavigate } from "react-router";

export const STAGE_KEYS = [
  "question",
  "treatments",
  "layout",
  "seed",
  "planting",
  "stand",
  "season",
  "estimate",
  "harvest",
  "verdict",
] as const;

function typing(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName))
  );
}

/** Open the working of the focused number, or else of the first on the page. */
function openWorking() {
  const focused = document.activeElement;
  const number =
    focused instanceof HTMLElement && focused.matches("[data-worked]")
      ? focused
      : document.querySelector<HTMLElement>("#place [data-worked]");
  number?.click();
}

/** Single keys of the desk; silent while something is typed, in a dialog, or when switched off. */
export function useShortcuts(on: boolean, open: { jump: () => void; help: () => void }) {
  const navigate = useNavigate();
  const trial = useLocation().pathname.match(/^\/trials\/([0-9a-f-]{36})/)?.[1];
  useLayoutEffect(() => {
    if (!on) return;
    const onKey = (event: KeyboardEvent) => {
      if (
        event.ctrlKey ||
        event.metaKey ||
        event.altKey ||
        typing(event.target) ||
        document.querySelector("dialog[open]")
      )
        return;
      const stage = trial && /^\d$/.test(event.key) ? STAGE_KEYS[(Number(event.key) + 9) % 10] : undefined;
      const acts: Record<string, () => void> = {
        j: open.jump,
        "?": open.help,
        b: () => void navigate("/bench"),
        w: openWorking,
      };
      const act = stage ? () => void navigate(`/trials/${trial}/${stage}`) : acts[event.key];
      if (!act) return;
      event.preventDefault();
      act();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });
}
