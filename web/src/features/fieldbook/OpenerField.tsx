import { TextField } from "../../ui/fields";

const place = (trialId: string) => `opener/${trialId}`;
export const openerOf = (trialId: string) => Number(sessionStorage.getItem(place(trialId))) || null;

/** The row of the machine that is dug or counted, from the left as seen from behind; empty where nobody minds. */
export function OpenerField({
  trialId,
  value,
  onChange,
}: {
  trialId: string;
  value: number | null;
  onChange: (opener: number | null) => void;
}) {
  return (
    <details>
      <summary className="cursor-pointer text-center underline">Row of the machine: {value ?? "not said"}</summary>
      <TextField
        label="Row, from the left as seen from behind"
        inputMode="numeric"
        value={value === null ? "" : String(value)}
        onCommit={(text) => {
          const number = /^\d{1,2}$/.test(text.trim()) ? Number(text) : null;
          sessionStorage.setItem(place(trialId), String(number ?? ""));
          onChange(number);
        }}
      />
    </details>
  );
}
