/** What may be wired to what, and why not. */
import { useMemo } from "react";
import { dialsOf, kindOf, takes } from "../api/catalogue";
import type { Band, Catalogue, Kind, Material, Module, Network, PortType, Wire } from "../api/client";
import { useDocuments } from "../bench/documents";
import type { Port } from "./chosen";
import { GIVES, moduleAt, slipKind } from "./modules";
import { NEW } from "./paper";

export const SIGNS: Record<PortType, string> = { number: "#", color: "C", vector: "→" };
export const PORT_WORDS: Record<PortType, string> = { number: "number", color: "colour", vector: "vector" };

/** What wires run between: the slips on the open paper, and the bands or what the open module gives. */
export interface Paper extends Network {
  bands: Band[];
  modules: Module[];
  open?: Module;
}

export function paperOf({ material, inside }: { material: Material; inside: string[] }): Paper {
  const open = moduleAt(material, inside);
  const { slips, wires, mounts } = open ?? material;
  return { slips, wires, mounts, open, modules: material.modules, bands: open ? [] : material.section.bands };
}

export function usePaper(): Paper {
  const material = useDocuments((s) => s.material);
  const inside = useDocuments((s) => s.inside);
  return useMemo(() => paperOf({ material, inside }), [material, inside]);
}

export const paperNow = (): Paper => paperOf(useDocuments.getState());

export function kindOnPaper(catalogue: Catalogue, paper: Paper, part: string): Kind | undefined {
  const slip = paper.slips.find((one) => one.id === part);
  if (slip) return slipKind(catalogue, paper.modules, slip);
  const band = paper.bands.find((one) => one.id === part);
  return band && kindOf(catalogue, "band", band.kind);
}

export function sourceType(catalogue: Catalogue, paper: Paper, slip: string, port: string): PortType | undefined {
  return kindOnPaper(catalogue, paper, slip)?.gives.find((one) => one.name === port)?.type;
}

/** What a dial takes, or what the open module gives by a port. */
export function targetType(catalogue: Catalogue, paper: Paper, part: string, dial: string): PortType | undefined {
  if (part === GIVES) {
    const source = paper.open?.gives.find((one) => one.name === dial)?.source;
    return source && sourceType(catalogue, paper, source.slip, source.port);
  }
  const kind = kindOnPaper(catalogue, paper, part);
  const about = kind && dialsOf(kind).find((one) => one.name === dial);
  return about && takes(about);
}

/** The words for a wire's conversion; "" when none is needed, undefined when there is none. */
export function conversion(catalogue: Catalogue, from: PortType, to: PortType): string | undefined {
  if (from === to) return "";
  return catalogue.conversions.find((one) => one.source === from && one.target === to)?.says;
}

function feeds(paper: Paper, from: string, to: string): boolean {
  const reached = new Set([from]);
  for (const part of reached)
    for (const { source, target } of paper.wires) if (source.slip === part) reached.add(target.part);
  return reached.has(to);
}

/** Why a wire cannot be run, or undefined when it can. */
export function whyNot(catalogue: Catalogue, paper: Paper, wire: Wire): string | undefined {
  const from = sourceType(catalogue, paper, wire.source.slip, wire.source.port);
  const to = targetType(catalogue, paper, wire.target.part, wire.target.dial);
  if (wire.target.part === GIVES) {
    if (from && (wire.target.dial === NEW || from === to)) return undefined;
    return `This port gives a ${PORT_WORDS[to ?? "number"]} to what is outside; a ${PORT_WORDS[from ?? "number"]} needs a port of its own.`;
  }
  if (!from || !to) return "This dial cannot be driven.";
  if (feeds(paper, wire.target.part, wire.source.slip)) return "That would run in a circle.";
  if (paper.open?.dials.some(({ target }) => target.part === wire.target.part && target.dial === wire.target.dial))
    return "This dial is one of the module’s own; drive it from outside, or take it off the module first.";
  if (conversion(catalogue, from, to) === undefined)
    return `A ${PORT_WORDS[from]} does not become a ${PORT_WORDS[to]}; put a converting slip between.`;
  return undefined;
}

const isDriven = (paper: Paper, part: string, dial: string) =>
  paper.wires.some(({ target }) => target.part === part && target.dial === dial);

/** The wire between a slip and a port that was chosen, where one fits. */
export function wireTo(catalogue: Catalogue, paper: Paper, id: string, port: Port): Wire | undefined {
  const about = kindOnPaper(catalogue, paper, id);
  if (!about) return undefined;
  const wires: Wire[] =
    port.side === "takes"
      ? about.gives.map((one) => ({
          source: { slip: id, port: one.name },
          target: { part: port.part, dial: port.name },
        }))
      : dialsOf(about)
          .filter((dial) => takes(dial) && !isDriven(paper, id, dial.name))
          .map((dial) => ({ source: { slip: port.part, port: port.name }, target: { part: id, dial: dial.name } }));
  const fitting = wires.filter((wire) => !whyNot(catalogue, paper, wire));
  const straight = fitting.find(
    ({ source, target }) =>
      sourceType(catalogue, paper, source.slip, source.port) === targetType(catalogue, paper, target.part, target.dial),
  );
  return straight ?? fitting[0];
}
