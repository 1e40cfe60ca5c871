/** What is done on the open paper: slips placed, wired, moved and copied, and mounts put under them. */
import type { Material, Module, Mount, Network, Slip, Wire } from "../api/client";
import { changeMaterial, changeNetwork, inOneStep, useDocuments } from "../bench/documents";
import { GIVES, MODULE, moduleAt, withInner } from "./modules";

export interface Point {
  x: number;
  y: number;
}

/** The network that is open: the material's, or that of a module. */
export function openNetwork({ material, inside }: { material: Material; inside: string[] }): Material | Module {
  return moduleAt(material, inside) ?? material;
}

export function openModule(): Module | undefined {
  const { material, inside } = useDocuments.getState();
  return moduleAt(material, inside);
}

/** An id that nothing in the material has yet. */
export function freeId(material: Material, kind: string): string {
  const networks = [material, ...material.modules];
  const taken = new Set([
    ...networks.flatMap((one) => [...one.slips, ...one.mounts].map((part) => part.id)),
    ...[...material.section.bands, ...material.modules].map((part) => part.id),
  ]);
  const word = kind.slice(0, 50);
  for (let n = 1; ; n++) if (!taken.has(`${word}_${n}`)) return `${word}_${n}`;
}

/** Place a slip on the open paper, of a kind or of a module; gives its id. */
export function placeSlip(kind: string, at: Point, about: Partial<Slip> = {}): string {
  const id = freeId(useDocuments.getState().material, kind);
  const slip: Slip = { id, kind, title: "", at: [at.x, at.y], dials: {}, ...about };
  changeNetwork(({ slips }) => ({ slips: [...slips, slip] }));
  return id;
}

type Places = Record<string, Point>;

/** Put slips and mounts elsewhere. */
export function movePieces(places: Places): void {
  const moved = <Piece extends { id: string; at: [number, number] }>(piece: Piece): Piece => {
    const at = places[piece.id];
    return at ? { ...piece, at: [at.x, at.y] } : piece;
  };
  changeNetwork(({ slips, mounts }) => ({ slips: slips.map(moved), mounts: mounts.map(moved) }));
}

export function renameSlip(id: string, title: string): void {
  changeNetwork(({ slips }) => ({ slips: slips.map((slip) => (slip.id === id ? { ...slip, title } : slip)) }));
}

/** Remove slips and mounts, with the wires that end at them. */
export function removePieces(ids: string[]): void {
  const gone = new Set(ids);
  changeNetwork(({ slips, wires, mounts }) => ({
    slips: slips.filter((slip) => !gone.has(slip.id)),
    mounts: mounts.filter((mount) => !gone.has(mount.id)),
    wires: wires.filter((wire) => !gone.has(wire.source.slip) && !gone.has(wire.target.part)),
  }));
}

const sameTarget = (a: Pick<Wire, "target">, b: Pick<Wire, "target">) =>
  a.target.part === b.target.part && a.target.dial === b.target.dial;

/** Run a wire; one that is there already is replaced. At the module's own edge it makes the module give something. */
export function runWire(wire: Wire): void {
  if (wire.target.part === GIVES) giveOut(wire);
  else changeNetwork(({ wires }) => ({ wires: [...wires.filter((other) => !sameTarget(other, wire)), wire] }));
}

export function removeWires(gone: Pick<Wire, "target">[]): void {
  changeNetwork(({ wires }) => ({ wires: wires.filter((wire) => !gone.some((one) => sameTarget(one, wire))) }));
  for (const { target } of gone.filter((one) => one.target.part === GIVES)) stopGiving(target.dial);
}

/** Change the module that is open. */
export function changeModule(change: (module: Module) => Partial<Module>): void {
  const open = openModule();
  if (open) changeNetwork((network) => change(network as Module));
}

/** A name that none of some parts has yet. */
export function freeName(taken: { name: string }[], word: string): string {
  if (!taken.some((one) => one.name === word)) return word;
  for (let n = 2; ; n++) if (!taken.some((one) => one.name === `${word}_${n}`)) return `${word}_${n}`;
}

export const NEW = "new";

function giveOut({ source, target }: Wire): void {
  changeModule(({ gives }) =>
    target.dial === NEW
      ? { gives: [...gives, { name: freeName(gives, source.port), source }] }
      : { gives: gives.map((one) => (one.name === target.dial ? { ...one, source } : one)) },
  );
}

export function stopGiving(name: string): void {
  changeModule(({ gives }) => ({ gives: gives.filter((one) => one.name !== name) }));
}

/** What is copied: slips with the wires between them, the mounts under them, and the modules that they use. */
export interface Pieces extends Network {
  modules: Module[];
}

/** Some pieces of the open paper; with a band, the wires into it as well. */
export function piecesOf(ids: string[], band?: string): Pieces {
  const { material, inside } = useDocuments.getState();
  const network = openNetwork({ material, inside });
  const chosen = new Set(ids);
  const isEnd = (id: string) => chosen.has(id) || id === band;
  const slips = network.slips.filter((slip) => chosen.has(slip.id));
  return {
    slips,
    wires: network.wires.filter((wire) => chosen.has(wire.source.slip) && isEnd(wire.target.part)),
    mounts: network.mounts.filter((mount) => chosen.has(mount.id)),
    modules: [...new Set(slips.flatMap((slip) => withInner(material.modules, slip.module ?? "")))],
  };
}

const ASIDE = 24;

/** Add copies to the open paper, a little aside; returns the new ids. bands: new ids of bands that wires of theirs end at. */
export function addCopies(pieces: Pieces, bands: Record<string, string> = {}): string[] {
  return inOneStep(() => copied(pieces, bands));
}

function copied(pieces: Pieces, bands: Record<string, string>): string[] {
  const names: Record<string, string> = {};
  const modules = takeIn(pieces.modules);
  let known = useDocuments.getState().material;
  const fresh = (id: string, word: string) => {
    names[id] = freeId(known, word);
    known = { ...known, mounts: [...known.mounts, { id: names[id], title: "", at: [0, 0], size: [0, 0] }] };
    return names[id];
  };
  const shifted = ([x, y]: [number, number]): [number, number] => [x + ASIDE, y + ASIDE];
  const slips = pieces.slips.map((slip) => ({
    ...slip,
    id: fresh(slip.id, slip.kind),
    module: slip.module && modules[slip.module],
    at: shifted(slip.at),
  }));
  const mounts = pieces.mounts.map((mount) => ({ ...mount, id: fresh(mount.id, "mount"), at: shifted(mount.at) }));
  const wires = pieces.wires
    .map((wire) => ({
      source: { ...wire.source, slip: names[wire.source.slip] },
      target: { ...wire.target, part: names[wire.target.part] ?? bands[wire.target.part] },
    }))
    .filter((wire) => wire.source.slip && wire.target.part);
  changeNetwork((network) => ({
    slips: [...network.slips, ...slips],
    mounts: [...network.mounts, ...mounts],
    wires: [...network.wires, ...wires],
  }));
  return Object.values(names);
}

/** Take modules into the material: if they are here as they come they stay, else each gets an id of its own. Gives the ids by the old. */
export function takeIn(modules: Module[]): Record<string, string> {
  const { material } = useDocuments.getState();
  const isHere = (module: Module) =>
    JSON.stringify(material.modules.find((one) => one.id === module.id)) === JSON.stringify(module);
  if (modules.every(isHere)) return Object.fromEntries(modules.map(({ id }) => [id, id]));
  const names: Record<string, string> = {};
  let known = material;
  for (const module of modules) {
    names[module.id] = freeId(known, MODULE);
    known = { ...known, modules: [...known.modules, { ...module, id: names[module.id] }] };
  }
  const fresh = modules.map((module) => ({
    ...module,
    id: names[module.id],
    slips: module.slips.map((slip) => ({ ...slip, module: slip.module && names[slip.module] })),
  }));
  changeMaterial((m) => ({ ...m, modules: [...m.modules, ...fresh] }));
  return names;
}

/** The slips that a part is driven by, and what drives those. */
export function driversOf({ wires }: Network, part: string): string[] {
  const found = new Set<string>();
  const add = (id: string) => {
    for (const { source, target } of wires) {
      if (target.part !== id || found.has(source.slip)) continue;
      found.add(source.slip);
      add(source.slip);
    }
  };
  add(part);
  return [...found];
}

/** A copy of some slips and mounts beside them. */
export function duplicate(ids: string[]): string[] {
  return addCopies(piecesOf(ids));
}

export const SLIP = { width: 172, height: 130 };
const MARGIN = { side: 16, top: 34 };

/** Put a mount under some slips; gives its id. */
export function putMountUnder(slips: Slip[], heights: Record<string, number>): string {
  const id = freeId(useDocuments.getState().material, "mount");
  const left = Math.min(...slips.map(({ at }) => at[0])) - MARGIN.side;
  const top = Math.min(...slips.map(({ at }) => at[1])) - MARGIN.top;
  const right = Math.max(...slips.map(({ at }) => at[0] + SLIP.width)) + MARGIN.side;
  const bottom = Math.max(...slips.map(({ id, at }) => at[1] + (heights[id] ?? SLIP.height))) + MARGIN.side;
  const mount: Mount = { id, title: "Untitled", at: [left, top], size: [right - left, bottom - top] };
  changeNetwork(({ mounts }) => ({ mounts: [...mounts, mount] }));
  return id;
}

export function changeMount(id: string, change: Partial<Mount>): void {
  changeNetwork(({ mounts }) => ({ mounts: mounts.map((one) => (one.id === id ? { ...one, ...change } : one)) }));
}

/** Whether a slip lies on a mount: its upper left corner does. */
export function liesOn({ at: [x, y] }: Slip, { at, size }: Mount): boolean {
  return x >= at[0] && y >= at[1] && x <= at[0] + size[0] && y <= at[1] + size[1];
}

/** Line slips up by their left edges or by their tops, or put them at even distances down. */
export function align(slips: Slip[], how: "left" | "top" | "even"): void {
  if (slips.length < 2) return;
  const left = Math.min(...slips.map(({ at }) => at[0]));
  const top = Math.min(...slips.map(({ at }) => at[1]));
  const down = [...slips].sort((a, b) => a.at[1] - b.at[1]);
  const step = (down[down.length - 1].at[1] - top) / (down.length - 1);
  const place = (slip: Slip): Point => {
    if (how === "left") return { x: left, y: slip.at[1] };
    if (how === "top") return { x: slip.at[0], y: top };
    return { x: slip.at[0], y: top + step * down.indexOf(slip) };
  };
  movePieces(Object.fromEntries(slips.map((slip) => [slip.id, place(slip)])));
}
