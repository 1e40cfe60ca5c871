import { type ReactNode, useState } from "react";

interface PicturePickerProps {
  /** What is said of it, as "Materials by their pictures". */
  label: string;
  placeholder: string;
  /** The picture of what is on the bench now. */
  own: ReactNode;
  /** What is found, as list items; each closes the picker when it is taken. */
  found: (sought: string, close: () => void) => ReactNode;
}

/** A picture; pressed, those of all, to be sought and taken. */
export function PicturePicker({ label, placeholder, own, found }: PicturePickerProps) {
  const [isOpen, setOpen] = useState(false);
  const [sought, setSought] = useState("");
  /** Something is on its way to a form: what lies under this is to be seen and reached. */
  const [isCarried, setCarried] = useState(false);
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: it closes when the focus leaves it, and by Escape
    <div
      className="relative"
      onBlur={(e) => !e.currentTarget.contains(e.relatedTarget) && setOpen(false)}
      onKeyDown={(e) => e.key === "Escape" && setOpen(false)}
    >
      <button
        type="button"
        className="block h-7 w-7 overflow-hidden border border-[#777]"
        aria-label={label}
        aria-expanded={isOpen}
        title={label}
        onClick={() => setOpen(!isOpen)}
      >
        {own || "…"}
      </button>
      {isOpen && (
        <div
          className={`absolute top-9 left-0 z-40 w-[26rem] border border-base-content bg-base-100 p-2 text-base-content ${isCarried ? "pointer-events-none opacity-15" : ""}`}
          role="dialog"
          // Not at once: a browser gives up a drag whose source can no longer be reached while it begins.
          onDragStart={() => setTimeout(() => setCarried(true))}
          onDragEnd={() => {
            setCarried(false);
            setOpen(false);
          }}
          aria-label={label}
        >
          <input
            className="input input-xs mb-2 w-full bg-transparent"
            placeholder={placeholder}
            aria-label="Seek"
            // biome-ignore lint/a11y/noAutofocus: it was just asked for
            autoFocus
            value={sought}
            onChange={(e) => setSought(e.target.value)}
            onKeyDown={(e) => e.key !== "Escape" && e.stopPropagation()}
          />
          <ul className="grid max-h-96 grid-cols-5 gap-1.5 overflow-y-auto">{found(sought, () => setOpen(false))}</ul>
        </div>
      )}
    </div>
  );
}
