/** The documents on the bench, with undo and redo. */
import { temporal } from "zundo";
import { create } from "zustand";
import type { Band, DialValue, Material, MaterialOut, Slip, Stage, StageOut, Wire } from "../api/client";

interface Documents {
  id: string;
  revision: number;
  saved: Material;
  material: Material;
  stageId: string;
  stage: Stage;
  /** Stages as the server has them, by id. */
  keptStages: Record<string, StageOut>;
}

export type Undoable = Pick<Documents, "material" | "stage" | "stageId">;

const empty = {} as Documents;

export const useDocuments = create<Documents>()(
  temporal(() => empty, {
    partialize: ({ material, stage, stageId }): Undoable => ({ material, stage, stageId }),
    equality: (a, b) => a.material === b.material && a.stage === b.stage,
    limit: 300,
  }),
);

export const history = useDocuments.temporal;

/** Put saved documents on the bench; nothing before this can be undone. */
export function open(material: MaterialOut, stages: StageOut[], stage: StageOut, draft?: Undoable): void {
  history.getState().pause();
  useDocuments.setState({
    id: material.id,
    revision: material.revision,
    saved: material.document,
    keptStages: Object.fromEntries(stages.map((one) => [one.id, one])),
    ...(draft ?? { material: material.document, stage: stage.document, stageId: stage.id }),
  });
  history.getState().resume();
  history.getState().clear();
}

/** Put the material on another stage. */
export function chooseStage(id: string): void {
  useDocuments.setState(({ keptStages }) => ({ stageId: id, stage: keptStages[id].document }));
}

/** A stage that the server has just made. */
export function addStage(stage: StageOut): void {
  useDocuments.setState(({ keptStages }) => ({ keptStages: { ...keptStages, [stage.id]: stage } }));
  chooseStage(stage.id);
}

/** What the server now has of a stage. */
export function stageWasSaved(stage: StageOut): void {
  useDocuments.setState(({ keptStages }) => ({ keptStages: { ...keptStages, [stage.id]: stage } }));
}

let inGesture = false;

/** Within a gesture only the first change is remembered. */
function changed(): void {
  if (inGesture) history.getState().pause();
}

export function changeMaterial(change: (material: Material) => Material): void {
  useDocuments.setState(({ material }) => ({ material: change(material) }));
  changed();
}

export function changeStage(change: (stage: Stage) => Stage): void {
  useDocuments.setState(({ stage }) => ({ stage: change(stage) }));
  changed();
}

/** All changes until `endGesture` are undone in one step. */
export function beginGesture(): void {
  inGesture = true;
}

export function endGesture(): void {
  inGesture = false;
  history.getState().resume();
}

function within<Part extends { id: string; dials: Record<string, unknown> }>(
  parts: Part[],
  id: string,
  values: object,
) {
  return parts.map((part) => (part.id === id ? { ...part, dials: { ...part.dials, ...values } } : part));
}

type Fields = Record<string, unknown>;

/** Change something of the stage by its path: "objects.0", "lamps.1", "surround.light", "camera", "floor". */
export function changePart(path: string, change: (part: Fields) => Fields): void {
  const steps = path.split(".");
  const into = (node: unknown, at: number): unknown => {
    if (at === steps.length) return change((node ?? {}) as Fields);
    if (Array.isArray(node)) return node.map((one, i) => (String(i) === steps[at] ? into(one, at + 1) : one));
    return { ...(node as Fields), [steps[at]]: into((node as Fields)[steps[at]], at + 1) };
  };
  changeStage((stage) => into(stage, 0) as Stage);
}

/** What stands before the path of a part of the stage, where a dial says whose it is. */
export const ON_STAGE = "stage:";

/** Set dials of a slip, a band, or a part of the stage. */
export function setDials(part: string, values: Record<string, DialValue>): void {
  if (part.startsWith(ON_STAGE)) {
    changePart(part.slice(ON_STAGE.length), (one) => ({ ...one, dials: { ...(one.dials as object), ...values } }));
    return;
  }
  changeMaterial((m) => ({
    ...m,
    slips: within(m.slips, part, values),
    section: { ...m.section, bands: within(m.section.bands, part, values) },
  }));
}

export function switchBand(id: string, on: boolean): void {
  changeMaterial((m) => ({
    ...m,
    section: { ...m.section, bands: m.section.bands.map((band) => (band.id === id ? { ...band, on } : band)) },
  }));
}

/** Change the bands of the section; wires into bands that go are taken off. */
export function changeBands(change: (bands: Band[]) => Band[]): void {
  changeMaterial((m) => {
    const bands = change(m.section.bands);
    const gone = m.section.bands.filter((old) => !bands.some((band) => band.id === old.id)).map((band) => band.id);
    return { ...m, section: { ...m.section, bands }, wires: m.wires.filter((w) => !gone.includes(w.target.part)) };
  });
}

/** Take a band out; with the split its sides become one again, the first staying; the last band becomes plain glass. */
export function removeBand(id: string): void {
  changeBands((bands) => {
    const isSplit = bands.find((band) => band.id === id)?.kind === "split";
    const left = bands
      .filter((band) => band.id !== id && !(isSplit && band.side === "second"))
      .map((band) => (isSplit ? { ...band, side: "both" as const } : band));
    return left.length ? left : [blankBand("interface", "interface")];
  });
}

/** A band as it is before anything is set. */
export function blankBand(id: string, kind: string, dials: Band["dials"] = {}): Band {
  return { id, kind, on: true, name: "", side: "both", dials };
}

/** An id that nothing in the material has yet. */
export function freeId(material: Material, kind: string): string {
  const taken = new Set([...material.slips, ...material.section.bands].map((part) => part.id));
  for (let n = 1; ; n++) if (!taken.has(`${kind}_${n}`)) return `${kind}_${n}`;
}

/** Place slips; returns the id of the last. */
export function placeSlip(kind: string, at: { x: number; y: number }, dials: Slip["dials"] = {}): string {
  const id = freeId(useDocuments.getState().material, kind);
  changeMaterial((m) => ({ ...m, slips: [...m.slips, { id, kind, title: "", at: [at.x, at.y], dials }] }));
  return id;
}

export function moveSlips(places: Record<string, { x: number; y: number }>): void {
  changeMaterial((m) => ({
    ...m,
    slips: m.slips.map((slip) => {
      const at = places[slip.id];
      return at ? { ...slip, at: [at.x, at.y] as [number, number] } : slip;
    }),
  }));
}

export function renameSlip(id: string, title: string): void {
  changeMaterial((m) => ({ ...m, slips: m.slips.map((slip) => (slip.id === id ? { ...slip, title } : slip)) }));
}

export function removeSlips(ids: string[]): void {
  const gone = new Set(ids);
  changeMaterial((m) => ({
    ...m,
    slips: m.slips.filter((slip) => !gone.has(slip.id)),
    wires: m.wires.filter((wire) => !gone.has(wire.source.slip) && !gone.has(wire.target.part)),
  }));
}

const sameTarget = (a: Wire, b: Wire) => a.target.part === b.target.part && a.target.dial === b.target.dial;

/** Run a wire; one that is there already is replaced. */
export function runWire(wire: Wire): void {
  changeMaterial((m) => ({ ...m, wires: [...m.wires.filter((other) => !sameTarget(other, wire)), wire] }));
}

export function removeWires(wires: Pick<Wire, "target">[]): void {
  changeMaterial((m) => ({ ...m, wires: m.wires.filter((wire) => !wires.some((w) => sameTarget(w as Wire, wire))) }));
}

/** Add copies of slips with the wires between them, a little aside; returns the new ids. */
export function addCopies(slips: Slip[], wires: Wire[]): string[] {
  const names: Record<string, string> = {};
  changeMaterial((m) => {
    let next = m;
    for (const slip of slips) {
      names[slip.id] = freeId(next, slip.kind);
      const copy: Slip = { ...slip, id: names[slip.id], at: [slip.at[0] + 24, slip.at[1] + 24] };
      next = { ...next, slips: [...next.slips, copy] };
    }
    const between = wires
      .filter((wire) => names[wire.target.part] && names[wire.source.slip])
      .map((wire) => ({
        source: { ...wire.source, slip: names[wire.source.slip] },
        target: { ...wire.target, part: names[wire.target.part] },
      }));
    return { ...next, wires: [...next.wires, ...between] };
  });
  return Object.values(names);
}

/** A copy of some slips beside them. */
export function duplicateSlips(ids: string[]): string[] {
  const { slips, wires } = useDocuments.getState().material;
  return addCopies(
    slips.filter((one) => ids.includes(one.id)),
    wires,
  );
}
