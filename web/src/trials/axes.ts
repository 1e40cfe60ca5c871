/** What a trial may turn: the dials of the material and the stage as they are on the bench, and the axes made of them. */
import { dialsOf, dialValue, effective, kindOf } from "../api/catalogue";
import type { Catalogue, DialAbout, DialAxis, Material, Stage, StagesAxis, StandsUpAxis } from "../api/client";
import { ON_STAGE } from "../bench/documents";
import { slipKind } from "../network/modules";
import { say } from "../ui/numbers";

export type Axis = DialAxis | StagesAxis | StandsUpAxis;

export const MOST_ALONG = 12;

/** A number that can be turned: a dial, or one of a colour. */
export interface Turnable {
  key: string;
  /** Whose it is. */
  owner: string;
  label: string;
  part: string;
  about: DialAbout;
  channel: DialAxis["channel"];
  value: number;
}

interface Part {
  kind: string;
  dials: Record<string, unknown>;
}

/** Every number and colour that is set on the bench. */
export function turnables(catalogue: Catalogue, material: Material, stage: Stage): Turnable[] {
  const of = (part: string, owner: string, dials: DialAbout[], one: Part): Turnable[] =>
    effective(dials, one).flatMap((about) => numbersOf(catalogue, part, owner, about, one));
  const onStage = (path: string, role: string, owner: string, one?: Part | null) => {
    const kind = one && kindOf(catalogue, role, one.kind);
    return one && kind ? of(ON_STAGE + path, owner || kind.title, dialsOf(kind), one) : [];
  };
  return [
    ...material.section.bands.flatMap((band) => {
      const kind = kindOf(catalogue, "band", band.kind);
      return kind ? of(band.id, band.name || kind.title, dialsOf(kind), band) : [];
    }),
    ...material.slips.flatMap((slip) => {
      const kind = slipKind(catalogue, material.modules, slip);
      return kind ? of(slip.id, slip.title || kind.title, dialsOf(kind), slip) : [];
    }),
    ...stage.objects.flatMap((one, i) => onStage(`objects.${i}.form`, "form", one.name ?? "", one.form)),
    ...stage.lamps.flatMap((lamp, i) => onStage(`lamps.${i}`, "lamp", lamp.name ?? "", lamp)),
    ...onStage("surround.light", "surround", "Surround", stage.surround.light),
    ...onStage("camera", "camera", "Camera", stage.camera),
  ];
}

function numbersOf(catalogue: Catalogue, part: string, owner: string, about: DialAbout, one: Part): Turnable[] {
  const whole = { owner, part, about };
  const key = `${part} ${about.name}`;
  if (about.type === "number")
    return [{ ...whole, key, label: about.label, channel: "", value: dialValue(one, about) as number }];
  if (about.type !== "color") return [];
  return (catalogue.channels as DialAxis["channel"][]).map((channel) => ({
    ...whole,
    key: `${key} ${channel}`,
    label: `${channel} of ${about.label.toLowerCase()}`,
    channel,
    value: 0,
  }));
}

/** From where to where a dial is turned unless somebody says otherwise. */
export function usualRange({ about, channel, value }: Turnable): [number, number] {
  if (channel) return channel === "hue" ? [0, 0.8] : [0.2, 1];
  const [low, high] = [about.low ?? 0, about.high ?? 1];
  return about.scale === "log" && value > 0 ? [Math.max(value / 4, about.hard_low ?? low), value * 4] : [low, high];
}

/** The axis over a range, even in the dial's own scale. */
export function axisOf(one: Turnable, low: number, high: number, count: number): DialAxis {
  const log = one.about.scale === "log" && !one.channel && low > 0;
  const values = Array.from({ length: count }, (_, i) => {
    const share = count > 1 ? i / (count - 1) : 0;
    return Number((log ? low * (high / low) ** share : low + (high - low) * share).toPrecision(4));
  });
  const label = `${one.owner}: ${one.label}`;
  const unit = one.channel ? "" : one.about.unit;
  return { kind: "dial", module: "", part: one.part, dial: one.about.name, channel: one.channel, values, label, unit };
}

/** What each step of an axis is called. */
export function stepsOf(axis?: Axis | null): string[] {
  if (!axis) return [""];
  if (axis.kind === "stages") return axis.stages.map((stage) => stage.name ?? "");
  if (axis.kind === "stands up") return axis.values ?? [];
  return axis.values.map((value) => `${typeof value === "number" ? say(value) : value} ${axis.unit ?? ""}`.trim());
}
