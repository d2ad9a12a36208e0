import { useState } from "react";
import { usePreferences } from "../api/queries";
import { Dialog } from "../ui/Dialog";

const KEYS: [string, string][] = [
  ["w", "Open the working of the focused number"],
  ["j", "Jump to a trial, a stage or a strip"],
  ["1 … 9, 0", "The ten stages of the trial, Question to Verdict"],
  ["b", "Bench"],
  ["← →", "On the ribbon: the strip before, the strip after"],
  ["Esc", "Close what is open"],
  ["?", "This list"],
];
const BOOK: [string, string][] = [
  ["0 … 9, Enter", "Record the count and go on"],
  ["Backspace", "On an empty number: take the last count back"],
  ["g", "A gap, counted through; on the tape: the gap is real"],
  ["d", "A double, counted through; on the tape: two plants there"],
  ["← →", "The strip before, the strip after"],
];

function List({ rows }: { rows: [string, string][] }) {
  return (
    <dl className="grid grid-cols-[9rem_1fr] gap-y-1">
      {rows.map(([key, what]) => (
        <div key={key} className="contents">
          <dt>
            <kbd className="border border-base-content px-1.5">{key}</kbd>
          </dt>
          <dd>{what}</dd>
        </div>
      ))}
    </dl>
  );
}

export function Help({ singleKeys, onClose }: { singleKeys: boolean; onClose: () => void }) {
  const preferences = usePreferences();
  // the box follows the finger at once; the session follows when the server has answered
  const [wanted, setWanted] = useState<boolean | null>(null);
  const put = (single_keys: boolean) => {
    setWanted(single_keys);
    preferences.mutate({ single_keys }, { onSettled: () => setWanted(null) });
  };
  return (
    <Dialog title="Shortcuts" onClose={onClose}>
      <List rows={KEYS} />
      <h3 className="mb-1 mt-4">In the field book</h3>
      <List rows={BOOK} />
      <label className="mt-4 flex items-center gap-2">
        <input type="checkbox" checked={wanted ?? singleKeys} onChange={(event) => put(event.target.checked)} />
        Single keys are on. They are silent while something is being typed.
      </label>
    </Dialog>
  );
}
