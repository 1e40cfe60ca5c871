import { useState } from "react";
import type { MaterialLine } from "../api/client";
import { MaterialCard } from "../library/MaterialCard";
import { MaterialPicture } from "../library/MaterialPicture";
import { isSought } from "../library/sought";

interface MaterialPickerProps {
  materials: MaterialLine[];
  id: string;
  onOpen: (id: string) => void;
}

/** The picture of the material on the bench; pressed, those of all, to be sought and taken. */
export function MaterialPicker({ materials, id, onOpen }: MaterialPickerProps) {
  const [isOpen, setOpen] = useState(false);
  const [sought, setSought] = useState("");
  /** A material is on its way to a form: what lies under this is to be seen and reached. */
  const [isCarried, setCarried] = useState(false);
  const own = materials.find((one) => one.id === id);
  const take = (one: MaterialLine) => {
    setOpen(false);
    onOpen(one.id);
  };
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
        aria-label="All by their pictures"
        aria-expanded={isOpen}
        title="All by their pictures"
        onClick={() => setOpen(!isOpen)}
      >
        {own?.picture && <MaterialPicture of={own} />}
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
          aria-label="All by their pictures"
        >
          <input
            className="input input-xs mb-2 w-full bg-transparent"
            placeholder="a word, a colour: greenish, dark"
            aria-label="Seek by word or colour"
            // biome-ignore lint/a11y/noAutofocus: it was just asked for
            autoFocus
            value={sought}
            onChange={(e) => setSought(e.target.value)}
            onKeyDown={(e) => e.key !== "Escape" && e.stopPropagation()}
          />
          <ul className="grid max-h-96 grid-cols-5 gap-1.5 overflow-y-auto">
            {materials
              .filter((one) => isSought(one, sought))
              .map((one) => (
                <li key={one.id}>
                  <MaterialCard of={one} isChosen={one.id === id} onTake={() => take(one)} />
                </li>
              ))}
          </ul>
        </div>
      )}
    </div>
  );
}
