/** Modules as the screens see them: as kinds of slip, opened, and kept in order when something of theirs goes. */
import { dialsOf, dialValue, kindOf } from "../api/catalogue";
import type { Catalogue, Kind, Material, Module, Network, Slip, Wire } from "../api/client";
import { joinOf } from "../ui/stops";

export const MODULE = "module";
/** Stands for the module itself where a wire ends at what it gives; no slip can be called so. */
export const GIVES = "Gives";
export const DEEPEST = 8;

const kinds = new WeakMap<Catalogue, WeakMap<Module[], Map<string, Kind>>>();

/** The kind of a slip, of the catalogue or a module. */
export function slipKind(catalogue: Catalogue, modules: Module[], slip: Slip): Kind | undefined {
  if (slip.kind !== MODULE) return kindOf(catalogue, "slip", slip.kind);
  const module = modules.find((one) => one.id === slip.module);
  return module && moduleKind(catalogue, modules, module);
}

/** A module as a kind of slip: the dials that it exposes, as they are set within it, and what it gives. */
export function moduleKind(catalogue: Catalogue, modules: Module[], module: Module): Kind {
  const ofCatalogue = kinds.get(catalogue) ?? new WeakMap();
  kinds.set(catalogue, ofCatalogue);
  const known: Map<string, Kind> = ofCatalogue.get(modules) ?? new Map();
  ofCatalogue.set(modules, known);
  const kind = known.get(module.id) ?? makeKind(catalogue, modules, module);
  known.set(module.id, kind);
  return kind;
}

function makeKind(catalogue: Catalogue, modules: Module[], module: Module): Kind {
  const inner = (id: string) => module.slips.find((one) => one.id === id);
  const kindWithin = (id: string) => {
    const slip = inner(id);
    return slip && slipKind(catalogue, modules, slip);
  };
  const dials = module.dials.flatMap((exposed) => {
    const slip = inner(exposed.target.part);
    const kind = kindWithin(exposed.target.part);
    const about = kind && dialsOf(kind).find((one) => one.name === exposed.target.dial);
    if (!slip || !about) return [];
    const range = { low: exposed.low ?? about.low, high: exposed.high ?? about.high };
    const label = exposed.label || about.label;
    const joined = joinOf(about, slip.dials, dialsOf(kind));
    return [{ ...about, ...range, name: exposed.name, label, joined, default: dialValue(slip, about) }];
  });
  const gives = module.gives.flatMap((given) => {
    const port = kindWithin(given.source.slip)?.gives.find((one) => one.name === given.source.port);
    return port ? [{ name: given.name, type: port.type }] : [];
  });
  const [{ rules }] = catalogue.kinds;
  const plain = { role: "slip", family: MODULE, standard: "nodegraph", rules: { ...rules, synonyms: "", why: "" } };
  return { ...plain, name: MODULE, title: module.name, help: module.help, dials, gives } as Kind;
}

/** The modules along a path of uses, as far as it leads. */
function modulesAlong(material: Material, inside: string[]): Module[] {
  const found: Module[] = [];
  for (const use of inside) {
    const network: Network = found[found.length - 1] ?? material;
    const slip = network.slips.find((one) => one.id === use);
    const next = material.modules.find((one) => one.id === slip?.module);
    if (!next) break;
    found.push(next);
  }
  return found;
}

/** The module that is open, or undefined on the material's own paper. */
export function moduleAt(material: Material, inside: string[]): Module | undefined {
  return modulesAlong(material, inside).at(-1);
}

/** The path as far as it leads: undo may have taken the use of an open module away. */
export function stillOpen(material: Material, inside: string[]): string[] {
  const { length } = modulesAlong(material, inside);
  return length === inside.length ? inside : inside.slice(0, length);
}

/** How often a module is used on any paper. */
export function usesOf(material: Material, module: string): number {
  return [material, ...material.modules].flatMap((one) => one.slips).filter((slip) => slip.module === module).length;
}

/** The module with those that it is made of, itself first. */
export function withInner(modules: Module[], id: string): Module[] {
  const found: Module[] = [];
  const add = (name: string) => {
    const module = modules.find((one) => one.id === name);
    if (!module || found.includes(module)) return;
    found.push(module);
    for (const slip of module.slips) if (slip.module) add(slip.module);
  };
  add(id);
  return found;
}

/** How deep a module goes, 1 for one without others. */
export function depthOf(modules: Module[], id: string): number {
  const module = modules.find((one) => one.id === id);
  const inner = new Set(module?.slips.flatMap((slip) => (slip.module ? [slip.module] : [])));
  return 1 + Math.max(0, ...[...inner].map((one) => depthOf(modules, one)));
}

/** Without what no longer has anything to hold on to: exposed dials, ports, wires, and modules that nothing uses. */
export function tidied(material: Material): Material {
  if (!material.modules.length) return material;
  const used = new Set(material.slips.flatMap((slip) => withInner(material.modules, slip.module ?? "")));
  let modules = material.modules.filter((one) => used.has(one));
  for (let round = 0; round < DEEPEST; round++) modules = modules.map((one) => tidiedModule(one, modules));
  return { ...material, ...tidiedNetwork(material, modules), modules };
}

function tidiedModule(module: Module, modules: Module[]): Module {
  const network = tidiedNetwork(module, modules);
  const dials = module.dials.filter(
    ({ target }) =>
      holds(module, modules, target.part, target.dial) && !network.wires.some((wire) => ends(wire, target)),
  );
  const gives = module.gives.filter(({ source }) => offers(module, modules, source.slip, source.port));
  return { ...module, ...network, dials, gives };
}

const ends = (wire: Wire, target: Wire["target"]) =>
  wire.target.part === target.part && wire.target.dial === target.dial;

function holds(network: Network, modules: Module[], part: string, dial: string): boolean {
  const slip = network.slips.find((one) => one.id === part);
  if (slip?.kind !== MODULE) return !!slip;
  return !!modules.find((one) => one.id === slip.module)?.dials.some((one) => one.name === dial);
}

function offers(network: Network, modules: Module[], part: string, port: string): boolean {
  const slip = network.slips.find((one) => one.id === part);
  if (slip?.kind !== MODULE) return !!slip;
  return !!modules.find((one) => one.id === slip.module)?.gives.some((one) => one.name === port);
}

function tidiedNetwork(network: Network, modules: Module[]): Pick<Network, "slips" | "wires"> {
  const slips = network.slips.map((slip) => {
    if (slip.kind !== MODULE) return slip;
    const dials = Object.entries(slip.dials).filter(([name]) => holds(network, modules, slip.id, name));
    return { ...slip, dials: Object.fromEntries(dials) };
  });
  const isSlip = (id: string) => network.slips.some((slip) => slip.id === id);
  const wires = network.wires.filter(
    ({ source, target }) =>
      offers(network, modules, source.slip, source.port) &&
      (!isSlip(target.part) || holds(network, modules, target.part, target.dial)),
  );
  return { slips, wires };
}
