import { useState } from "react";
import type { MaterialLine } from "../api/client";
import { MaterialCard } from "../library/MaterialCard";
import { isSought } from "../library/sought";
import { Sheet } from "../ui/Sheet";
import { MOST_ALONG } from "./axes";

interface MaterialsSheetProps {
  materials: MaterialLine[];
  onClose: () => void;
  onMake: (ids: string[]) => void;
}

/** Which materials are to stand beside the one on the bench, on the same stage. */
export function MaterialsSheet({ materials, onClose, onMake }: MaterialsSheetProps) {
  const [sought, setSought] = useState("");
  const [chosen, choose] = useState<string[]>([]);
  const turn = (id: string) =>
    choose(chosen.includes(id) ? chosen.filter((one) => one !== id) : [...chosen, id].slice(0, MOST_ALONG - 1));
  return (
    <Sheet title="Beside which materials?" onClose={onClose}>
      <input
        className="input input-sm mb-2 w-full"
        aria-label="Seek"
        placeholder="a word, a colour: greenish, dark"
        // biome-ignore lint/a11y/noAutofocus: the sheet is opened to type in it
        autoFocus
        value={sought}
        onChange={(e) => setSought(e.target.value)}
      />
      <ul className="grid max-h-80 grid-cols-5 gap-1.5 overflow-y-auto p-0.5">
        {materials
          .filter((one) => isSought(one, sought))
          .map((one) => (
            <li key={one.id}>
              <MaterialCard of={one} isChosen={chosen.includes(one.id)} onTake={() => turn(one.id)} />
            </li>
          ))}
      </ul>
      <button
        type="button"
        className="btn btn-sm mt-2 bg-marker text-[#1d1d1d]"
        disabled={chosen.length === 0}
        onClick={() => {
          onMake(chosen);
          onClose();
        }}
      >
        {chosen.length ? `Lay ${chosen.length + 1} side by side` : "Choose one to three or more"}
      </button>
    </Sheet>
  );
}
