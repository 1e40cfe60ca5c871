import { catalogueNow } from "../api/catalogue";
/** Modules made, opened, set apart, taken apart, and kept in the library. */
import {
  api,
  type Catalogue,
  type KeptModule,
  type Module,
  type Network,
  type Slip,
  type Wire,
  wordsOf,
} from "../api/client";
import { changeMaterial, changeNetwork, inOneStep, useDocuments } from "../bench/documents";
import { tell } from "../ui/told";
import { useChosen } from "./chosen";
import { DEEPEST, depthOf, MODULE, slipKind, withInner } from "./modules";
import { changeModule, freeId, freeName, openModule, openNetwork, type Point, placeSlip, takeIn } from "./paper";

const CORNER = 40;

/** A name as documents have it: "Rim wear" becomes rim_wear. */
function wordOf(name: string): string {
  const word = name
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, "_")
    .replace(/^[^a-z]+/, "")
    .slice(0, 48);
  return word || "out";
}

/** Make the slips a module and put a use of it in their place; gives the id of the use. */
export function groupSlips(catalogue: Catalogue, ids: string[]): string | undefined {
  const { material, inside } = useDocuments.getState();
  const network = openNetwork({ material, inside });
  const chosen = new Set(ids);
  const slips = network.slips.filter((slip) => chosen.has(slip.id));
  const deep = Math.max(0, ...slips.map((slip) => (slip.module ? depthOf(material.modules, slip.module) : 0)));
  if (!slips.length) return undefined;
  if (inside.length + 1 + deep > DEEPEST) {
    tell(`Modules may lie ${DEEPEST} deep within one another, not deeper.`);
    return undefined;
  }
  const module = moduleOf(catalogue, network, slips, freeId(material, MODULE));
  const use = freeId({ ...material, modules: [...material.modules, module] }, "use");
  const middle = (axis: 0 | 1) => slips.reduce((sum, { at }) => sum + at[axis], 0) / slips.length;
  const placed: Slip = { id: use, kind: MODULE, module: module.id, title: "", at: [middle(0), middle(1)], dials: {} };
  inOneStep(() => {
    changeMaterial((m) => ({ ...m, modules: [...m.modules, module] }));
    changeNetwork((now) => ({ ...around(now, chosen, module, use), slips: outside(now.slips, chosen, placed) }));
  });
  useChosen.getState().only([use]);
  return use;
}

const outside = (slips: Slip[], chosen: Set<string>, use: Slip) => [...slips.filter((one) => !chosen.has(one.id)), use];

/** A module of some slips: what is driven from without are its dials, what drives something without is what it gives. */
function moduleOf(catalogue: Catalogue, network: Network, slips: Slip[], id: string): Module {
  const within = new Set(slips.map((slip) => slip.id));
  const left = Math.min(...slips.map(({ at }) => at[0])) - CORNER;
  const top = Math.min(...slips.map(({ at }) => at[1])) - CORNER;
  const dials: Module["dials"] = [];
  const gives: Module["gives"] = [];
  const expose = (target: Wire["target"], label = "") =>
    dials.push({ name: freeName(dials, target.dial), label, target });
  const give = (source: Wire["source"]) => {
    const known = gives.some((one) => one.source.slip === source.slip && one.source.port === source.port);
    if (!known) gives.push({ name: "", source });
  };
  const inner = network.wires.filter((wire) => within.has(wire.source.slip) && within.has(wire.target.part));
  for (const { source, target } of network.wires) {
    if (!within.has(source.slip) && within.has(target.part)) expose(target);
    if (within.has(source.slip) && !within.has(target.part)) give(source);
  }
  const around = network as Partial<Module>;
  for (const { target, label } of around.dials ?? []) if (within.has(target.part)) expose(target, label);
  for (const { source } of around.gives ?? []) if (within.has(source.slip)) give(source);
  const feeds = new Set(inner.map((wire) => wire.source.slip));
  const { modules } = useDocuments.getState().material;
  for (const slip of gives.length ? [] : slips) {
    const first = slipKind(catalogue, modules, slip)?.gives[0];
    if (first && !feeds.has(slip.id)) give({ slip: slip.id, port: first.name });
  }
  const named = (source: Wire["source"]) => {
    const slip = slips.find((one) => one.id === source.slip);
    return wordOf(gives.length === 1 ? source.port : slip?.title || slip?.kind || source.port);
  };
  for (const given of gives) given.name = freeName(gives, named(given.source));
  const moved = slips.map((slip) => ({ ...slip, at: [slip.at[0] - left, slip.at[1] - top] as [number, number] }));
  return { id, name: "Untitled module", help: "", slips: moved, wires: inner, mounts: [], dials, gives };
}

/** What surrounds a new module: its wires, and the face of the module that is open, now ending at the use. */
function around(network: Network, chosen: Set<string>, module: Module, use: string): Partial<Module> {
  const dialOf = (target: Wire["target"]) =>
    module.dials.find((one) => one.target.part === target.part && one.target.dial === target.dial)?.name ?? "";
  const portOf = (source: Wire["source"]) =>
    module.gives.find((one) => one.source.slip === source.slip && one.source.port === source.port)?.name ?? "";
  const target = (old: Wire["target"]) => (chosen.has(old.part) ? { part: use, dial: dialOf(old) } : old);
  const source = (old: Wire["source"]) => (chosen.has(old.slip) ? { slip: use, port: portOf(old) } : old);
  const wires = network.wires
    .filter((wire) => !(chosen.has(wire.source.slip) && chosen.has(wire.target.part)))
    .map((wire) => ({ source: source(wire.source), target: target(wire.target) }));
  const face = network as Partial<Module>;
  return {
    wires,
    ...(face.dials && { dials: face.dials.map((one) => ({ ...one, target: target(one.target) })) }),
    ...(face.gives && { gives: face.gives.map((one) => ({ ...one, source: source(one.source) })) }),
  };
}

/** Put the slips of a use back on the paper, set as the use was; gives their ids. */
export function takeApart(use: string): string[] {
  const { material, inside } = useDocuments.getState();
  const network = openNetwork({ material, inside });
  const slip = network.slips.find((one) => one.id === use);
  const module = material.modules.find((one) => one.id === slip?.module);
  if (!slip || !module) return [];
  const names: Record<string, string> = {};
  let known = material;
  for (const one of module.slips) {
    names[one.id] = freeId(known, one.kind);
    known = { ...known, slips: [...known.slips, { ...one, id: names[one.id] }] };
  }
  const back = ([x, y]: [number, number]): [number, number] => [slip.at[0] + x - CORNER, slip.at[1] + y - CORNER];
  const mounts = module.mounts.map((one) => {
    const id = freeId(known, "mount");
    known = { ...known, mounts: [...known.mounts, { ...one, id }] };
    return { ...one, id, at: back(one.at) };
  });
  const slips = module.slips.map((one) => {
    const set = module.dials.filter(({ name, target }) => target.part === one.id && name in slip.dials);
    const own = Object.fromEntries(set.map(({ name, target }) => [target.dial, slip.dials[name]]));
    return { ...one, id: names[one.id], at: back(one.at), dials: { ...one.dials, ...own } };
  });
  const target = (old: Wire["target"]) => {
    const exposed = old.part === use ? module.dials.find((one) => one.name === old.dial) : undefined;
    return exposed ? { part: names[exposed.target.part], dial: exposed.target.dial } : old;
  };
  const source = (old: Wire["source"]) => {
    const given = old.slip === use ? module.gives.find((one) => one.name === old.port) : undefined;
    return given ? { slip: names[given.source.slip], port: given.source.port } : old;
  };
  const inner = module.wires.map((wire) => ({
    source: { ...wire.source, slip: names[wire.source.slip] },
    target: { ...wire.target, part: names[wire.target.part] },
  }));
  changeNetwork((now) => {
    const face = now as Partial<Module>;
    return {
      slips: [...now.slips.filter((one) => one.id !== use), ...slips],
      mounts: [...now.mounts, ...mounts],
      wires: [...now.wires.map((wire) => ({ source: source(wire.source), target: target(wire.target) })), ...inner],
      ...(face.dials && { dials: face.dials.map((one) => ({ ...one, target: target(one.target) })) }),
      ...(face.gives && { gives: face.gives.map((one) => ({ ...one, source: source(one.source) })) }),
    };
  });
  const ids = Object.values(names);
  useChosen.getState().only(ids);
  return ids;
}

/** Give a use a module of its own, so that it no longer follows the others. */
export function detach(use: string): void {
  const { material, inside } = useDocuments.getState();
  const slip = openNetwork({ material, inside }).slips.find((one) => one.id === use);
  const module = material.modules.find((one) => one.id === slip?.module);
  if (!module) return;
  const own = { ...module, id: freeId(material, MODULE), name: `${module.name}, detached`, kept: null };
  inOneStep(() => {
    changeMaterial((m) => ({ ...m, modules: [...m.modules, own] }));
    changeNetwork(({ slips }) => ({ slips: slips.map((one) => (one.id === use ? { ...one, module: own.id } : one)) }));
  });
}

/** Open the module of a use, to see and change what it is made of. */
export function openUse(use: string): void {
  const { material, inside } = useDocuments.getState();
  const slip = openNetwork({ material, inside }).slips.find((one) => one.id === use);
  if (slip?.kind !== MODULE) return;
  useDocuments.setState({ inside: [...inside, use] });
  useChosen.getState().only([]);
}

/** Go back out to where the use of the open module lies. */
export function closeModule(): void {
  const { inside } = useDocuments.getState();
  if (!inside.length) return;
  useDocuments.setState({ inside: inside.slice(0, -1) });
  useChosen.getState().only(inside.slice(-1));
}

/** Have a dial of a slip among the module's own, or no longer. */
export function expose(part: string, dial: string, isOn: boolean): void {
  changeModule(({ dials }) => ({
    dials: isOn
      ? [...dials, { name: freeName(dials, dial), label: "", target: { part, dial } }]
      : dials.filter(({ target }) => target.part !== part || target.dial !== dial),
  }));
}

/** One of some parts a place further. */
export function shifted<One>(all: One[], at: number, by: number): One[] {
  const next = [...all];
  const to = at + by;
  if (to < 0 || to >= all.length) return all;
  [next[at], next[to]] = [next[to], next[at]];
  return next;
}

/** Rename what the open module gives; wires at its uses follow. */
export function renameGiven(old: string, words: string): void {
  const name = wordOf(words);
  const open = openModule();
  if (!open || open.gives.some((one) => one.name === name)) return;
  const renamed = <Net extends Network>(network: Net): Net => {
    const uses = new Set(network.slips.filter((slip) => slip.module === open.id).map((slip) => slip.id));
    const wires = network.wires.map((wire) =>
      uses.has(wire.source.slip) && wire.source.port === old
        ? { ...wire, source: { ...wire.source, port: name } }
        : wire,
    );
    return { ...network, wires };
  };
  changeMaterial((m) => {
    const modules = m.modules.map((one) => {
      const next = renamed(one);
      const gives = next.gives.map((given) => {
        if (one.id === open.id && given.name === old) return { ...given, name };
        const inner = one.slips.find((slip) => slip.id === given.source.slip);
        const follows = inner?.module === open.id && given.source.port === old;
        return follows ? { ...given, source: { ...given.source, port: name } } : given;
      });
      return { ...next, gives };
    });
    return { ...renamed(m), modules };
  });
}

/** Keep a module in the library, or bring what the library has of it up to date. Gives what happened, in words. */
export async function keepModule(id: string): Promise<string> {
  const { material } = useDocuments.getState();
  const modules = withInner(material.modules, id);
  const [{ kept, name }] = modules;
  const document = {
    ...catalogueNow().plain.module,
    modules: modules.map((one) => ({ ...one, kept: null })),
  };
  const { data, error, response } = kept
    ? await api.PUT("/api/modules/{module_id}", {
        params: { path: { module_id: kept.id } },
        body: { based_on: kept.revision, document },
      })
    : await api.POST("/api/modules", { body: { document } });
  if (response.status === 404) {
    changeKept(id, null);
    return keepModule(id);
  }
  if (!data) return (error as { says?: string }).says ?? wordsOf(error);
  changeKept(id, { id: data.id, revision: data.revision });
  return kept ? `The library has ${name} as it is here, as revision ${data.revision}.` : `${name} is in the library.`;
}

function changeKept(id: string, kept: Module["kept"]): void {
  changeMaterial((m) => ({ ...m, modules: m.modules.map((one) => (one.id === id ? { ...one, kept } : one)) }));
}

/** The library's module, as it comes into this material. */
function asKept({ id, revision, document }: KeptModule): Module[] {
  return document.modules.map((one, i) => (i ? one : { ...one, kept: { id, revision } }));
}

/** Place a module of the library on the open paper; gives the id of the use. */
export function placeKept(kept: KeptModule, at: Point): string {
  return inOneStep(() => {
    const here = useDocuments.getState().material.modules.find((one) => one.kept?.id === kept.id);
    const [main] = kept.document.modules;
    const id = here?.id ?? takeIn(asKept(kept))[main.id];
    return placeSlip(MODULE, at, { module: id });
  });
}

/** Have a module as the library has it now; all its uses follow. */
export function takeNewer(id: string, kept: KeptModule): void {
  inOneStep(() => {
    const [main] = kept.document.modules;
    const names = takeIn(asKept(kept));
    changeMaterial((m) => {
      const fresh = m.modules.find((one) => one.id === names[main.id]);
      const modules = m.modules.map((one) => (one.id === id && fresh ? { ...fresh, id } : one));
      return { ...m, modules };
    });
    changeNetwork((network) => network);
  });
}
