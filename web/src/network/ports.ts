/** What may be wired to what, and why not. */
import { dialsOf, kindOf, takes } from "../api/catalogue";
import type { Catalogue, Material, PortType, Wire } from "../api/client";
import type { Port } from "./chosen";

export const SIGNS: Record<PortType, string> = { number: "#", color: "C", vector: "→" };
export const PORT_WORDS: Record<PortType, string> = { number: "number", color: "colour", vector: "vector" };

export function sourceType(catalogue: Catalogue, material: Material, slip: string, port: string): PortType | undefined {
  const kind = material.slips.find((one) => one.id === slip)?.kind;
  return kind ? kindOf(catalogue, "slip", kind)?.gives.find((one) => one.name === port)?.type : undefined;
}

export function targetType(catalogue: Catalogue, material: Material, part: string, dial: string): PortType | undefined {
  const slip = material.slips.find((one) => one.id === part);
  const band = material.section.bands.find((one) => one.id === part);
  const kind = slip ? kindOf(catalogue, "slip", slip.kind) : band && kindOf(catalogue, "band", band.kind);
  const about = kind && dialsOf(kind).find((one) => one.name === dial);
  return about && takes(about);
}

/** The words for a wire's conversion; "" when none is needed, undefined when there is none. */
export function conversion(catalogue: Catalogue, from: PortType, to: PortType): string | undefined {
  if (from === to) return "";
  return catalogue.conversions.find((one) => one.source === from && one.target === to)?.says;
}

function feeds(material: Material, from: string, to: string): boolean {
  if (from === to) return true;
  return material.wires.some((wire) => wire.source.slip === from && feeds(material, wire.target.part, to));
}

/** Why a wire cannot be run, or undefined when it can. */
export function whyNot(catalogue: Catalogue, material: Material, wire: Wire): string | undefined {
  const from = sourceType(catalogue, material, wire.source.slip, wire.source.port);
  const to = targetType(catalogue, material, wire.target.part, wire.target.dial);
  if (!from || !to) return "This dial cannot be driven.";
  if (feeds(material, wire.target.part, wire.source.slip)) return "That would run in a circle.";
  if (conversion(catalogue, from, to) === undefined)
    return `A ${PORT_WORDS[from]} does not become a ${PORT_WORDS[to]}; put a converting slip between.`;
  return undefined;
}

/** The wire between a new slip and a port that was chosen, where one fits. */
export function wireTo(
  catalogue: Catalogue,
  material: Material,
  id: string,
  kind: string,
  port: Port,
): Wire | undefined {
  const about = kindOf(catalogue, "slip", kind);
  if (!about) return undefined;
  const wires: Wire[] =
    port.side === "takes"
      ? about.gives.map((one) => ({
          source: { slip: id, port: one.name },
          target: { part: port.part, dial: port.name },
        }))
      : dialsOf(about)
          .filter(takes)
          .map((dial) => ({ source: { slip: port.part, port: port.name }, target: { part: id, dial: dial.name } }));
  const fitting = wires.filter((wire) => !whyNot(catalogue, material, wire));
  const straight = fitting.find(
    (wire) =>
      sourceType(catalogue, material, wire.source.slip, wire.source.port) ===
      targetType(catalogue, material, wire.target.part, wire.target.dial),
  );
  return straight ?? fitting[0];
}
