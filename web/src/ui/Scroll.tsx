import type { ReactNode } from "react";

/** A long table in a low box, or a wide one in a narrow one; the keyboard reaches it, so that arrows scroll it. */
export function Scroll({ label, height = "", children }: { label: string; height?: string; children: ReactNode }) {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reachable without a pointer
    <section aria-label={label} tabIndex={0} className={`overflow-auto ${height}`}>
      {children}
    </section>
  );
}
