/** Slips and modules put on the open paper, wired to the port that was chosen where one fits. */
import type { Catalogue, KeptModule } from "../api/client";
import { useChosen } from "../network/chosen";
import { placeKept } from "../network/grouping";
import { MODULE, withInner } from "../network/modules";
import { openModule, type Point, placeSlip, runWire } from "../network/paper";
import { freePlace } from "../network/places";
import { paperNow, wireTo } from "../network/ports";
import { tell } from "../ui/told";
import { inOneStep, useDocuments } from "./documents";

let corner: () => Point = () => ({ x: 0, y: 0 });

/** Say where the upper left corner of what is seen of the paper is. */
export function setCorner(where: () => Point): void {
  corner = where;
}

function placed(catalogue: Catalogue, make: (at: Point) => string): void {
  const { port, only } = useChosen.getState();
  const id = inOneStep(() => {
    const made = make(port?.at ?? freePlace(paperNow().slips, corner()));
    const wire = port && wireTo(catalogue, paperNow(), made, port);
    if (wire) runWire(wire);
    return made;
  });
  only([id]);
  focusSlip(id);
}

export function place(catalogue: Catalogue, kind: string): void {
  placed(catalogue, (at) => placeSlip(kind, at));
}

/** Place a use of a module of this material. */
export function placeModule(catalogue: Catalogue, module: string): void {
  const open = openModule();
  const within = withInner(useDocuments.getState().material.modules, module);
  if (open && within.some((one) => one.id === open.id)) tell("A module cannot lie within itself.");
  else placed(catalogue, (at) => placeSlip(MODULE, at, { module }));
}

/** Place a module of the library. */
export function placeFromLibrary(catalogue: Catalogue, kept: KeptModule): void {
  const here = useDocuments.getState().material.modules.find((one) => one.kept?.id === kept.id);
  if (here) placeModule(catalogue, here.id);
  else placed(catalogue, (at) => placeKept(kept, at));
}

const TRIES = 20;

/** Give a slip the keyboard, as soon as it is drawn and measured and no sheet lies over it. */
export function focusSlip(id: string, tries = TRIES): void {
  const node = document.querySelector<HTMLElement>(`.react-flow__node[data-id="${id}"]`);
  node?.focus();
  const isThere = node && document.activeElement === node && !document.querySelector("dialog[open]");
  if (!isThere && tries) requestAnimationFrame(() => focusSlip(id, tries - 1));
}
