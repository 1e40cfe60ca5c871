/** Slips and modules put on the open paper, wired to the port that was chosen where one fits. */
import type { Catalogue, KeptModule, Slip, Stop, Wire } from "../api/client";
import { useChosen } from "../network/chosen";
import { focusSlip } from "../network/going";
import { gradientDial } from "../network/gradients";
import { placeKept } from "../network/grouping";
import { MODULE, withInner } from "../network/modules";
import { openModule, type Point, placeSlip, runWire } from "../network/paper";
import { freePlace } from "../network/places";
import { type Paper, paperNow, wireTo } from "../network/ports";
import { tell } from "../ui/told";
import { inOneStep, setDials, useDocuments } from "./documents";

const BESIDE = 230;

let corner: () => Point = () => ({ x: 0, y: 0 });

/** Say where the upper left corner of what is seen of the paper is. */
export function setCorner(where: () => Point): void {
  corner = where;
}

/** The wire that is chosen, when it is the only one. */
export function chosenWire(paper: Paper): Wire | undefined {
  const { wires } = useChosen.getState();
  return wires.length === 1
    ? paper.wires.find(({ target }) => `${target.part}.${target.dial}` === wires[0])
    : undefined;
}

/** Run a wire through a slip, where it fits between its ends. */
function putOnWire(catalogue: Catalogue, { source, target }: Wire, id: string): void {
  const before = wireTo(catalogue, paperNow(), id, { side: "gives", part: source.slip, name: source.port });
  const beyond = wireTo(catalogue, paperNow(), id, { side: "takes", part: target.part, name: target.dial });
  if (!before || !beyond) return;
  runWire(before);
  runWire(beyond);
}

/** Put a new slip on the wire that ends at a dial of a band, beside what drives it. */
export function placeOnWire(catalogue: Catalogue, kind: string, target: Wire["target"], dials: Slip["dials"]): void {
  useDocuments.setState({ inside: [] });
  const { slips, wires } = paperNow();
  const wire = wires.find((one) => one.target.part === target.part && one.target.dial === target.dial);
  const driver = slips.find((one) => one.id === wire?.source.slip);
  if (!wire || !driver) return;
  const id = inOneStep(() => {
    const made = placeSlip(kind, freePlace(slips, { x: driver.at[0] + BESIDE, y: driver.at[1] }), { dials });
    putOnWire(catalogue, wire, made);
    return made;
  });
  useChosen.getState().only([id]);
}

function placed(catalogue: Catalogue, make: (at: Point) => string): void {
  const { port, only } = useChosen.getState();
  const id = inOneStep(() => {
    const made = make(port?.at ?? freePlace(paperNow().slips, corner()));
    const wire = port && wireTo(catalogue, paperNow(), made, port);
    if (wire) runWire(wire);
    const chosen = port ? undefined : chosenWire(paperNow());
    if (chosen) putOnWire(catalogue, chosen, made);
    return made;
  });
  only([id]);
  focusSlip(id);
}

export function place(catalogue: Catalogue, kind: string): void {
  placed(catalogue, (at) => placeSlip(kind, at));
}

/** Put a gradient on the chosen colour ramp, or on a new one. */
export function placeGradient(catalogue: Catalogue, stops: Stop[]): void {
  const chosen = paperNow().slips.filter((slip) => useChosen.getState().slips.includes(slip.id));
  const { ramp } = catalogue.plain;
  const [onto] = chosen.flatMap((slip) => {
    const dial = gradientDial(catalogue, slip);
    return dial ? [{ slip, dial }] : [];
  });
  if (onto) setDials(onto.slip.id, { [onto.dial]: stops });
  else placed(catalogue, (at) => placeSlip(ramp.kind, at, { dials: { [gradientDial(catalogue, ramp) ?? ""]: stops } }));
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
