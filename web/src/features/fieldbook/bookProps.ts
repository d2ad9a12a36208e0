import type { Strip, Trial } from "../../api/client";
import type { Task } from "./BookFrame";
import type { useOutbox } from "./useOutbox";

/** What every task of the field book is given: the trial, the strip at hand, where to go, and what waits on the device. */
export type BookProps = {
  trial: Trial;
  strip: Strip;
  choose: (strip: Strip) => void;
  go: (step: number) => void;
  outbox: ReturnType<typeof useOutbox>;
  change: (task: Task) => void;
};
