import { type ReactNode, useEffect, useId, useRef, useState } from "react";
import type { Typed } from "../api/client";
import { useCatalogue } from "../api/queries";
import type { ReaderUnits } from "./readerUnits";

type Common = { label: string; hint?: ReactNode; error?: string | null; disabled?: boolean };

function Frame({ id, label, hint, error, children }: Common & { id: string; children: ReactNode }) {
  return (
    <div>
      <label htmlFor={id}>{label}</label>
      {children}
      {error && (
        <p id={`${id}-error`} role="alert" className="font-medium text-error">
          {error}
        </p>
      )}
      {hint && !error && <p className="muted text-sm">{hint}</p>}
    </div>
  );
}

type TextProps = Common & {
  value: string;
  onCommit: (value: string) => void;
  multiline?: boolean;
  type?: "text" | "date" | "password";
  autoFocus?: boolean;
  inputMode?: "numeric" | "decimal";
};

/**
 * The text in a field that saves by itself. What is kept elsewhere replaces it, but never what somebody is typing: the
 * answer to the last save may arrive in the middle of the next word.
 */
function useTypedText(kept: string) {
  const [text, setText] = useState(kept);
  const typing = useRef(false);
  useEffect(() => {
    if (!typing.current) setText(kept);
  }, [kept]);
  return {
    text,
    type(next: string) {
      typing.current = true;
      setText(next);
    },
    sent() {
      typing.current = false;
    },
  };
}

/** A text that commits when it is left (or on Enter) and keeps what was typed when the commit is refused. */
export function TextField({ value, onCommit, multiline, type = "text", inputMode, ...common }: TextProps) {
  const id = useId();
  const { text, type: typeText, sent } = useTypedText(value);
  const commit = () => {
    sent();
    if (text !== value) onCommit(text);
  };
  const shared = {
    id,
    className: "entry",
    value: text,
    disabled: common.disabled,
    "aria-invalid": Boolean(common.error),
    "aria-describedby": common.error ? `${id}-error` : undefined,
    onBlur: commit,
  };
  return (
    <Frame id={id} {...common}>
      {multiline ? (
        <textarea {...shared} rows={2} onChange={(event) => typeText(event.target.value)} />
      ) : (
        <input
          {...shared}
          type={type}
          inputMode={inputMode}
          onChange={(event) => typeText(event.target.value)}
          onKeyDown={(event) => event.key === "Enter" && commit()}
        />
      )}
    </Frame>
  );
}

export function ChoiceField({
  value,
  onCommit,
  options,
  ...common
}: Common & { value: string; onCommit: (value: string) => void; options: [string, string][] }) {
  const id = useId();
  return (
    <Frame id={id} {...common}>
      <select
        id={id}
        className="entry"
        value={value}
        disabled={common.disabled}
        onChange={(event) => onCommit(event.target.value)}
      >
        {options.map(([key, name]) => (
          <option key={key} value={key}>
            {name}
          </option>
        ))}
      </select>
    </Frame>
  );
}

/** Units of a dimension, those of the reader's place first and the usual one before all. */
export function useUnits(dimension: string, reader: ReaderUnits, usual?: string): [string, string][] {
  const catalogue = useCatalogue();
  const units = catalogue.data?.units[dimension] ?? [];
  const rank = ({ code }: { code: string }) => (code === usual ? 0 : reader.own.includes(code) ? 1 : 2);
  return [...units].sort((unit, other) => rank(unit) - rank(other)).map((unit) => [unit.code, unit.label]);
}

type QuantityProps = Common & {
  value: Typed & { shown?: string | null };
  dimension: string;
  reader: ReaderUnits;
  /** The kind of quantity: the unit that an empty field starts in is the reader's for it. */
  kind?: string;
  usual?: string;
  currency?: string;
  onCommit: (value: Typed) => void;
};

/** A number with its unit, kept exactly as typed; the same in the reader's units stands beside it when it differs. */
export function QuantityField({ value, dimension, reader, kind, usual, currency, onCommit, ...common }: QuantityProps) {
  const id = useId();
  const first = usual ?? reader.of[kind ?? ""];
  const units = useUnits(dimension, reader, first);
  const fallback = first ?? units[0]?.[0] ?? "";
  const { text, type, sent } = useTypedText(value.text);
  const [unit, setUnit] = useState(value.unit || fallback);
  useEffect(() => setUnit(value.unit || fallback), [value.unit, fallback]);
  const commit = (nextUnit = unit) => {
    sent();
    if (text !== value.text || (text && nextUnit !== value.unit)) onCommit({ text, unit: nextUnit });
  };
  const ownUnit = units.findIndex(([code]) => code === value.unit);
  const foreign = value.text && ownUnit >= 0 && !reader.own.includes(value.unit) ? value.shown : null;
  return (
    <Frame
      id={id}
      {...common}
      hint={foreign ? `typed as ${value.text} ${units[ownUnit]?.[1]}; that is ${foreign}` : common.hint}
    >
      <div className="flex">
        <input
          id={id}
          className="entry text-right"
          inputMode="decimal"
          value={text}
          disabled={common.disabled}
          aria-invalid={Boolean(common.error)}
          aria-describedby={common.error ? `${id}-error` : undefined}
          onChange={(event) => type(event.target.value)}
          onBlur={() => commit()}
          onKeyDown={(event) => event.key === "Enter" && commit()}
        />
        <select
          aria-label={`Unit of ${common.label.toLowerCase()}`}
          className="entry max-w-32 border-l-0"
          value={unit}
          hidden={units.length === 1 && !units[0]?.[1] && !currency}
          disabled={common.disabled}
          onChange={(event) => {
            setUnit(event.target.value);
            commit(event.target.value);
          }}
        >
          {units.map(([code, label]) => (
            <option key={code} value={code}>
              {currency && (label === "" || label.startsWith("/")) ? currency + label : label}
            </option>
          ))}
        </select>
      </div>
    </Frame>
  );
}
