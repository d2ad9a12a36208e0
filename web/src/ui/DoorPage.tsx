import type { ReactNode } from "react";
import { Flag } from "./marks";

/** A page before one is inside: the mark, a heading, one sheet. */
export function DoorPage({ title, children }: { title: string; children: ReactNode }) {
  return (
    <main className="mx-auto grid min-h-screen max-w-md content-center gap-4 p-6">
      <p className="tag flex items-center gap-1.5 text-2xl">
        <Flag /> Cultrix
      </p>
      <h1>{title}</h1>
      {children}
    </main>
  );
}
