import type { ReactNode } from "react";

/** Why something was refused, beside where it was asked; nothing when there is no reason. */
export function Problem({ children }: { children: ReactNode }) {
  if (!children) return null;
  return (
    <p role="alert" className="mt-2 font-medium text-error">
      {children}
    </p>
  );
}
