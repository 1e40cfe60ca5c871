/** What a trial may turn: the dials of the material and the stage as they are on the bench, and the axes made of them. */
import { dialsOf, effective, kindOf } from "../api/catalogue";
import type {
  Catalogue,
  DialAbout,
  DialAxis,
  Material,
  MaterialsAxis,
  Stage,
  StagesAxis,
  StandsUpAxis,
} from "../api/client";
import { ON_STAGE } from "../bench/documents";
import { slipKind } from "../network/modules";
import { valuesAcross } from "../picture/bracket";
import { say } from "../ui/numbers";

export type Axis = DialAxis | StagesAxis | MaterialsAxis | StandsUpAxis;

export const MOST_ALONG = 12;

/** A number that can be turned: a dial, or one of a colour, which is told as a dial of its own. */
export interface Turnable {
  key: string;
  /** Whose it is. */
  owner: string;
  label: string;
  part: string;
  about: DialAbout;
  channel: DialAxis["channel"];
}

interface Part {
  kind: string;
  dials: Record<string, unknown>;
}

/** Every number and colour that is set on the bench. */
export function turnables(catalogue: Catalogue, material: Material, stage: Stage): Turnable[] {
  const of = (part: string, owner: string, dials: DialAbout[], one: Part): Turnable[] =>
    effective(dials, one).flatMap((about) => numbersOf(catalogue, part, owner, about));
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

function numbersOf(catalogue: Catalogue, part: string, owner: string, about: DialAbout): Turnable[] {
  const key = `${part} ${about.name}`;
  if (about.type === "number") return [{ owner, part, about, key, label: about.label, channel: "" }];
  if (about.type !== "color") return [];
  return catalogue.channels.map(({ name, low, high }) => ({
    owner,
    part,
    about: { ...about, low, high, scale: "linear", unit: "" },
    key: `${key} ${name}`,
    label: `${name} of ${about.label.toLowerCase()}`,
    channel: name as DialAxis["channel"],
  }));
}

/** The axis over a range. */
export function axisOf(one: Turnable, low: number, high: number, count: number): DialAxis {
  const values = valuesAcross(one.about, low, high, count);
  const label = `${one.owner}: ${one.label}`;
  const { part, channel, about } = one;
  return { kind: "dial", module: "", part, dial: about.name, channel, values, label, unit: about.unit };
}

/** What each step of an axis is called. */
export function stepsOf(axis?: Axis | null): string[] {
  if (!axis) return [""];
  if (axis.kind === "stages") return axis.stages.map((stage) => stage.name ?? "");
  if (axis.kind === "materials") return axis.materials.map((one) => one.name ?? "");
  if (axis.kind === "stands up") return axis.values ?? [];
  return axis.values.map((value) => `${typeof value === "number" ? say(value) : value} ${axis.unit ?? ""}`.trim());
}
