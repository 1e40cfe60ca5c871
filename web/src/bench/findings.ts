/** What can be found by typing: slips, bands, modules, substances, what lies on the paper, and commands. */
import { dialsOf, takes, useCatalogue } from "../api/catalogue";
import type { Catalogue, Kind, PortType, Stop } from "../api/client";
import { useKeptModules } from "../library/keptModules";
import { putPreset, usePresets } from "../library/presets";
import { putOnBench, useSubstances } from "../library/substances";
import { type Port, useChosen } from "../network/chosen";
import { goTo } from "../network/going";
import { GIVES, MODULE, moduleKind } from "../network/modules";
import { removeWires, runWire } from "../network/paper";
import { conversion, kindOnPaper, type Paper, sourceType, targetType, usePaper, wireTo } from "../network/ports";
import { offers } from "../section/Section";
import { gradientOf } from "../ui/stops";
import { tell } from "../ui/told";
import type { Finding } from "./Finder";
import { chosenWire, place, placeFromLibrary, placeGradient, placeModule } from "./placing";

export type Command = [title: string, says: string, act: () => void];

/** Whether a new slip of a kind could be at the other end of a port. */
function fits(catalogue: Catalogue, paper: Paper, kind: Kind, port?: Port): boolean {
  if (!port) return true;
  const goes = (from?: PortType, to?: PortType) => !!from && (!to || conversion(catalogue, from, to) !== undefined);
  if (port.side === "gives") {
    const from = sourceType(catalogue, paper, port.part, port.name);
    return dialsOf(kind).some((dial) => takes(dial) && goes(from, takes(dial)));
  }
  const to = targetType(catalogue, paper, port.part, port.name);
  return kind.gives.some((one) => goes(one.type, to));
}

/** Everything there is to find; with a port, only what can be wired to it. */
export function useFindings(commands: Command[]): Finding[] {
  const catalogue = useCatalogue();
  const paper = usePaper();
  const port = useChosen((s) => s.port);
  const { kept } = useKeptModules();
  const substances = useSubstances();
  const presets = usePresets();
  const wire = port ? undefined : chosenWire(paper);
  const has = (kind: Kind) => fits(catalogue, paper, kind, port);
  const onWire = (kind: Kind) =>
    !!wire &&
    fits(catalogue, paper, kind, { side: "gives", part: wire.source.slip, name: wire.source.port }) &&
    fits(catalogue, paper, kind, { side: "takes", part: wire.target.part, name: wire.target.dial });
  const described = (kind: Kind, says: string, act: () => void): Finding => ({
    title: kind.title,
    says,
    help: onWire(kind) ? `onto the chosen wire: ${kind.help}` : kind.help,
    also: `${kind.name} ${kind.standard} ${kind.rules.synonyms}`,
    act,
  });
  const own = paper.modules.map((module) => ({ module, kind: moduleKind(catalogue, paper.modules, module) }));
  const inLibrary = kept
    .filter((one) => !paper.modules.some(({ kept: mine }) => mine?.id === one.id))
    .map((one) => ({ one, kind: moduleKind(catalogue, one.document.modules, one.document.modules[0]) }));
  const gradients = catalogue.gradients.map(({ name, stops }) => ({
    title: name,
    says: "colours",
    help: "on the chosen ramp, or a new one",
    swatch: gradientOf(stops as Stop[]),
    act: () => placeGradient(catalogue, stops as Stop[]),
  }));
  const toWire = [
    ...toTakeOff(paper, port),
    ...(port ? onPaper(catalogue, paper, port) : []),
    ...catalogue.kinds
      .filter((kind) => kind.role === "slip" && has(kind))
      .map((kind) => described(kind, kind.family, () => place(catalogue, kind.name))),
    ...own
      .filter(({ kind }) => has(kind))
      .map(({ kind, module }) => described(kind, MODULE, () => placeModule(catalogue, module.id))),
    ...inLibrary
      .filter(({ kind }) => has(kind))
      .map(({ kind, one }) => described(kind, MODULE, () => placeFromLibrary(catalogue, one))),
  ];
  if (port) return toWire;
  return [
    ...toWire,
    ...onPaper(catalogue, paper),
    ...offers(catalogue).map(({ kind, add }) => described(kind, "band", add)),
    ...substances.map((one) => ({
      title: one.title,
      says: "substance",
      help: `${one.family}, n ${one.n_d.toFixed(3)}`,
      also: one.name,
      act: () => tell(putOnBench(one, catalogue)),
    })),
    ...gradients,
    ...presets.map((one) => ({
      title: one.name,
      says: "preset",
      help: one.is_whole ? "in place of the section" : "put into the section",
      act: () => putPreset(catalogue, one),
    })),
    ...commands.map(([title, help, act]) => ({ title, says: "command", help, act })),
  ];
}

/** The wire at a port that is driven already. */
function toTakeOff(paper: Paper, port?: Port): Finding[] {
  const target = port?.side === "takes" ? { part: port.part, dial: port.name } : undefined;
  const isGiven = target?.part === GIVES && paper.open?.gives.some((one) => one.name === target.dial);
  const isDriven = paper.wires.some((wire) => wire.target.part === target?.part && wire.target.dial === target?.dial);
  if (!target || !(isDriven || isGiven)) return [];
  return [{ title: "Take the wire off", says: "command", act: () => removeWires([{ target }]) }];
}

/** What lies on the paper: to go to, or to be wired to a port. */
function onPaper(catalogue: Catalogue, paper: Paper, port?: Port): Finding[] {
  const parts = port ? [...paper.slips, ...paper.bands] : paper.slips;
  return parts.flatMap((part) => {
    const about = kindOnPaper(catalogue, paper, part.id);
    const named = ("title" in part ? part.title : part.name) || about?.title || part.kind;
    const words = { title: named, says: "on paper", also: `${part.id} ${about?.title ?? ""}` };
    if (!port) return [{ ...words, help: "go to it", act: () => goTo(part.id) }];
    const wire = part.id === port.part ? undefined : wireTo(catalogue, paper, part.id, port);
    if (!wire) return [];
    const end = port.side === "takes" ? wire.source.port : wire.target.dial.replaceAll("_", " ");
    return [{ ...words, help: `wire it: ${end === "out" ? "what it gives" : end}`, act: () => runWire(wire) }];
  });
}
