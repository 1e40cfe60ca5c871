/** A small catalogue, and documents made of what it has. */
import type { Catalogue, Material, MaterialOut, Stage, StageOut } from "../src/api/client";
import { open } from "../src/bench/documents";

const dial = (name: string, type: string, more: object = {}) => ({
  ...{ name, label: name, type, default: 0, low: 0, high: 1, drivable: true, when: null, beside: null },
  ...more,
});
const out = (type: string, name = "out") => ({ name, type });
const rules = { rank: 0, most: 1, why: "", excludes: [], splits: false };

export const catalogue = {
  kinds: [
    { role: "band", name: "interface", title: "Interface", dials: [dial("roughness", "number")], gives: [], rules },
    { role: "band", name: "body", title: "Body", dials: [dial("color", "color")], gives: [], rules },
    { role: "band", name: "fork", title: "Split", dials: [], gives: [], rules: { ...rules, splits: true } },
    { role: "slip", name: "number", title: "Number", dials: [dial("value", "number")], gives: [out("number")], rules },
    { role: "slip", name: "ramp", title: "Ramp", dials: [dial("at", "number")], gives: [out("number")], rules },
    { role: "slip", name: "place", title: "Place", dials: [], gives: [out("vector")], rules },
    { role: "slip", name: "paint", title: "Paint", dials: [dial("amount", "number")], gives: [out("color")], rules },
    { role: "slip", name: "note", title: "Note", dials: [dial("words", "text", { drivable: false })], gives: [], rules },
  ],
  conversions: [{ source: "number", target: "color", says: "number to grey" }],
  plain: {
    material: { version: 2, section: { bands: [{ id: "interface", kind: "interface" }] } },
    stage: { version: 2 },
    module: { format: "nineglass.module", version: 2 },
  },
} as unknown as Catalogue;

export const slip = (id: string, kind: string, more: object = {}) => ({
  ...{ id, kind, module: "", title: "", at: [0, 0] as [number, number], dials: {} },
  ...more,
});

/** wire("ramp.out", "interface.roughness") */
export const wire = (from: string, to: string) => {
  const [source, port] = from.split(".");
  const [part, name] = to.split(".");
  return { source: { slip: source, port }, target: { part, dial: name } };
};

export const materialOf = (more: object = {}): Material =>
  ({
    ...{ format: "nineglass.material", version: 2, name: "Glass", slips: [], wires: [], modules: [], mounts: [] },
    section: { bands: [{ id: "interface", kind: "interface", on: true, name: "", side: "both", dials: {} }] },
    ...more,
  }) as unknown as Material;

export const stageOf = (more: object = {}): Stage =>
  ({
    ...{ format: "nineglass.stage", version: 2, name: "Sill", objects: [], lamps: [], surround: { light: { dials: {} } } },
    camera: { kind: "camera", dials: { distance: 40 } },
    ...more,
  }) as unknown as Stage;

export const keptStage = (id = "s1", stage = stageOf(), revision = 1): StageOut =>
  ({ id, name: stage.name, revision, document: stage }) as unknown as StageOut;

export const keptMaterial = (id = "m1", material = materialOf(), revision = 1): MaterialOut =>
  ({ id, name: material.name, revision, document: material }) as unknown as MaterialOut;

/** Put documents on the bench. */
export function lay(material: Material = materialOf(), stages = [keptStage()], id = "m1"): void {
  open(keptMaterial(id, material), stages, stages[0]);
}
