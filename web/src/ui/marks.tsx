/** The marking flag: act here. */
export function Flag({ className = "h-6 w-6" }: { className?: string }) {
  return (
    <svg viewBox="0 0 32 32" className={`shrink-0 ${className}`} aria-hidden="true">
      <path d="M8 3v26" stroke="currentColor" strokeWidth="3" />
      <path d="M9 4h18l-6 6 6 6H9z" fill="var(--color-accent)" stroke="currentColor" strokeWidth="1" />
    </svg>
  );
}

/** A treatment's letter on a tag in its ink. */
export function Stake({ letter, position }: { letter: string; position: number }) {
  return <span className={`stake ink-${(position % 8) + 1}`}>{letter}</span>;
}
