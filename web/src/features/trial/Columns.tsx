import { type ReactNode, useState } from "react";

/** What you do on the left, why it is so on the right; the right side folds away and stays folded. */
export function Columns({ children, why }: { children: ReactNode; why: ReactNode }) {
  const [folded, setFolded] = useState(localStorage.getItem("why") === "folded");
  const fold = () => {
    localStorage.setItem("why", folded ? "open" : "folded");
    setFolded(!folded);
  };
  return (
    <div className={folded ? "grid grid-cols-[1fr_auto] gap-3" : "grid gap-6 lg:grid-cols-[minmax(0,1fr)_22rem]"}>
      <div className="min-w-0">{children}</div>
      <aside aria-label="Why it is so" className="min-w-0">
        <div className="flex items-center justify-between border-b border-base-content">
          {!folded && <h2>Why it is so</h2>}
          <button type="button" className="px-2 py-1 underline" aria-expanded={!folded} onClick={fold}>
            {folded ? "Why" : "Fold away"}
          </button>
        </div>
        {!folded && <div className="mt-2 space-y-2.5">{why}</div>}
      </aside>
    </div>
  );
}

export function Caution({ children }: { children: ReactNode }) {
  return <p className="caution">{children}</p>;
}
