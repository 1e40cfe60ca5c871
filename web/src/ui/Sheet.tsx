import { useEffect, useRef } from "react";

interface SheetProps {
  title: string;
  onClose: () => void;
  children: React.ReactNode;
}

/** A sheet of paper over the bench; Escape puts it away. */
export function Sheet({ title, onClose, children }: SheetProps) {
  const dialog = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    dialog.current?.showModal();
  }, []);
  return (
    <dialog ref={dialog} className="modal modal-top" aria-label={title} onClose={onClose}>
      <div className="modal-box mx-auto mt-24 w-[30rem] border border-base-content p-4 text-base-content shadow-none">
        <h2 className="mb-2 text-[14px] font-semibold">{title}</h2>
        {children}
      </div>
      <form method="dialog" className="modal-backdrop">
        <button type="submit" aria-label="Close">
          close
        </button>
      </form>
    </dialog>
  );
}
