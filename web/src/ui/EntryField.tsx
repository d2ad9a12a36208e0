import { type ReactNode, useId } from "react";

/** A text of a form that is sent as a whole: the form keeps what is typed. */
export function EntryField({
  label,
  value,
  onChange,
  type = "text",
  autoComplete,
  hint,
  error,
  inputMode,
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  type?: "text" | "password" | "email";
  autoComplete?: string;
  hint?: ReactNode;
  error?: string | null;
  inputMode?: "numeric";
}) {
  const id = useId();
  return (
    <div>
      <label htmlFor={id}>{label}</label>
      <input
        id={id}
        className="entry"
        type={type}
        value={value}
        inputMode={inputMode}
        autoComplete={autoComplete}
        autoCapitalize={autoComplete ? "none" : undefined}
        aria-invalid={Boolean(error)}
        aria-describedby={error ? `${id}-error` : undefined}
        onChange={(event) => onChange(event.target.value)}
      />
      {error && (
        <p id={`${id}-error`} role="alert" className="font-medium text-error">
          {error}
        </p>
      )}
      {hint && !error && <p className="muted text-sm">{hint}</p>}
    </div>
  );
}
