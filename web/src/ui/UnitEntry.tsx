import type { Typed } from "../api/client";

type Props = {
  label: string;
  unitLabel?: string;
  value: Typed;
  units: [string, string][];
  numeric?: boolean;
  disabled?: boolean;
  onChange: (value: Typed) => void;
};

/** An amount and its unit inside a table, named for those who do not see the column. */
export function UnitEntry({ label, unitLabel, value, units, numeric, disabled, onChange }: Props) {
  return (
    <div className="flex">
      <input
        aria-label={label}
        className={`entry min-w-16 ${numeric ? "text-right" : ""}`}
        inputMode={numeric ? "decimal" : undefined}
        value={value.text}
        disabled={disabled}
        onChange={(event) => onChange({ ...value, text: event.target.value })}
      />
      {units.length > 0 && (
        <select
          aria-label={unitLabel ?? `Unit of ${label[0]?.toLowerCase()}${label.slice(1)}`}
          className="entry w-24 shrink-0 border-l-0"
          value={value.unit}
          disabled={disabled}
          onChange={(event) => onChange({ ...value, unit: event.target.value })}
        >
          {units.map(([code, name]) => (
            <option key={code} value={code}>
              {name}
            </option>
          ))}
        </select>
      )}
    </div>
  );
}
