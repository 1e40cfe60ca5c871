import { Sheet } from "../ui/Sheet";

const SHORTCUTS: [string, string][] = [
  ["/", "find and place a slip, module, band or substance, find a slip on the paper, or do something"],
  ["Enter", "on a port or notch: find what can be wired to it"],
  ["M", "make a module of the chosen slips; O opens the chosen one, Esc closes it"],
  ["F2", "on a slip, band or mount: rename it"],
  ["H", "hold the chosen slip up on the form; again: put it down"],
  ["B", "bracket the dial under the pointer, or the one with the focus: seven pictures across its range"],
  ["Ctrl C", "copy the chosen slips, as text; Ctrl V pastes them, in another material too"],
  ["K", "keep a proof"],
  ["J", "make a final picture of what is on the bench"],
  ["G", "grain: show the picture as rendered, or smoothed while it settles"],
  ["V", "view: plain or film-like"],
  ["T", "stops: how far each part lies from mid grey"],
  ["Y", "lights apart: turn lamps without making the picture again; again: all light together"],
  ["W", "the picture fills the place; again: back"],
  ["R", "held, drag on the picture: make that part alone; pressed: the whole again"],
  [", .", "step through the proofs"],
  ["\\", "flip with the chosen proof"],
  ["[ ]", "exposure down and up"],
  ["N", "next bench note"],
  ["drag", "on the picture: turn the form; with L held: turn the lamps"],
  ["F", "held, click on the picture: follow the light that is seen there"],
  ["P", "held, click on the picture: read its light, as numbers and as a spectrum"],
  ["wheel", "on the picture: move the camera"],
  ["Ctrl Z", "undo; with Shift: redo"],
  ["Ctrl S", "save"],
  ["Ctrl D", "duplicate the chosen slips"],
  ["Ctrl A", "choose all slips"],
  ["Delete", "remove the chosen slips and wires"],
  ["arrows", "on a dial: change it; with Shift: finer; on the picture: turn"],
  ["Enter", "on the picture: read the light in its middle; with Shift: follow it"],
  ["0–9", "on a dial: type a number, with a unit or as a sum (0.5 mm, 1.5168+0.044)"],
  [
    "double click",
    "on the picture: make that place sharp; on a dial: back to its default; on a slip's name: rename it",
  ],
  ["Tab", "next control"],
];

export function Shortcuts({ onClose }: { onClose: () => void }) {
  return (
    <Sheet title="Shortcuts" onClose={onClose}>
      <dl className="grid grid-cols-[6.5rem_1fr] gap-y-1">
        {SHORTCUTS.map(([key, says]) => (
          <div key={key} className="contents">
            <dt>
              <kbd className="key">{key}</kbd>
            </dt>
            <dd>{says}</dd>
          </div>
        ))}
      </dl>
    </Sheet>
  );
}
