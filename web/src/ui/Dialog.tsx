import { type ReactNode, useEffect, useRef } from "react";

/** A modal sheet; Escape and the close button end it. What is marked `data-first` gets the focus. */
export function Dialog({ title, onClose, children }: { title: string; onClose: () => void; children: ReactNode }) {
  const box = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    const dialog = box.current;
    if (dialog && !dialog.open) dialog.showModal();
    dialog?.querySelector<HTMLElement>("[data-first]")?.focus();
    return () => dialog?.close();
  }, []);
  return (
    <dialog
      ref={box}
      aria-label={title}
      onCancel={(event) => {
        event.preventDefault();
        onClose();
      }}
      className="m-auto w-[36rem] max-w-[calc(100vw-1rem)] border-2 border-base-content bg-base-100 p-4 text-base-content backdrop:bg-black/40"
    >
      <div className="mb-2 flex items-start justify-between gap-3">
        <h2>{title}</h2>
        <button type="button" className="plain" onClick={onClose}>
          Close
        </button>
      </div>
      {children}
    </dialog>
  );
}
