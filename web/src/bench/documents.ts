/** The documents on the bench, with undo and redo. */
import { temporal } from "zundo";
import { create } from "zustand";
import { catalogueNow, splits } from "../api/catalogue";
import type { Band, DialValue, Lamp, Material, MaterialOut, Module, Network, Stage, StageOut } from "../api/client";
import { stageIsKept } from "../api/queries";
import { moduleAt, stillOpen, tidied } from "../network/modules";

interface Documents {
  id: string;
  revision: number;
  saved: Material;
  material: Material;
  stageId: string;
  stage: Stage;
  /** The uses of modules that are open on the network, each within the one before. */
  inside: string[];
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

useDocuments.subscribe(({ material, inside }) => {
  const open = inside?.length ? stillOpen(material, inside) : inside;
  if (open !== inside) useDocuments.setState({ inside: open });
});

/** Put saved documents on the bench; nothing before this can be undone. */
/** What was unsaved. stageRevision: that from which the stage was changed, null where it was not; a draft of long ago does not tell. */
export type Draft = Undoable & { revision: number; stageRevision?: number | null };

export function open(material: MaterialOut, stages: StageOut[], stage: StageOut, draft?: Undoable): void {
  history.getState().pause();
  useDocuments.setState({
    id: material.id,
    revision: material.revision,
    saved: material.document,
    inside: [],
    keptStages: Object.fromEntries(stages.map((one) => [one.id, one])),
    ...(draft ?? { material: material.document, stage: stage.document, stageId: stage.id }),
  });
  history.getState().resume();
  history.getState().clear();
}

/** Put a draft on the bench. A stage that was changed in it is based on the revision from which it was: one saved since is not overwritten. */
export function openDraft(material: MaterialOut, stages: StageOut[], stage: StageOut, draft: Draft): void {
  const isChanged = draft.stageRevision !== null && draft.stageId === stage.id;
  const kept = isChanged ? { ...stage, revision: draft.stageRevision ?? stage.revision } : stage;
  const others = stages.filter((one) => one.id !== stage.id);
  const shown = isChanged ? draft.stage : stage.document;
  open(material, [...others, kept], kept, { material: draft.material, stage: shown, stageId: stage.id });
}

/** Put the material on another stage. */
export function chooseStage(id: string): void {
  useDocuments.setState(({ keptStages }) => ({ stageId: id, stage: keptStages[id].document }));
}

/** A stage that the server has just made. */
export function addStage(stage: StageOut): void {
  stageWasSaved(stage);
  chooseStage(stage.id);
}

/** What the server now has of a stage. */
export function stageWasSaved(stage: StageOut): void {
  stageIsKept(stage);
  useDocuments.setState(({ keptStages }) => ({ keptStages: { ...keptStages, [stage.id]: stage } }));
}

let gestures = 0;

/** Within a gesture only the first change is remembered. */
function changed(): void {
  if (gestures) history.getState().pause();
}

export function changeMaterial(change: (material: Material) => Material): void {
  useDocuments.setState(({ material }) => ({ material: change(material) }));
  changed();
}

/** Change what lies on the open paper: the network of the material, or that of the module that is open. */
export function changeNetwork(change: (network: Network) => Partial<Module>): void {
  const { inside } = useDocuments.getState();
  changeMaterial((m) => {
    const open = moduleAt(m, inside);
    if (!open) return tidied({ ...m, ...change(m) });
    const modules = m.modules.map((one) => (one.id === open.id ? { ...one, ...change(one) } : one));
    return tidied({ ...m, modules });
  });
}

export function changeStage(change: (stage: Stage) => Stage): void {
  useDocuments.setState(({ stage }) => ({ stage: change(stage) }));
  changed();
}

/** A name that nothing on a stage has yet. */
export function freeName(stage: Stage, stem: string): string {
  const taken = new Set([...stage.objects, ...stage.lamps].map((one) => one.id));
  for (let n = 1; ; n++) if (!taken.has(`${stem}_${n}`)) return `${stem}_${n}`;
}

/** Put a lamp on the stage under a name of its own; gives its path. */
export function addLamp(lamp: Lamp): string {
  const { stage } = useDocuments.getState();
  const made = { ...lamp, id: freeName(stage, "lamp") };
  changeStage((s) => ({ ...s, lamps: [...s.lamps, made] }));
  return `lamps.${stage.lamps.length}`;
}

/** All changes until `endGesture` are undone in one step; gestures may lie within one another. */
export function beginGesture(): void {
  gestures += 1;
}

export function endGesture(): void {
  gestures = Math.max(0, gestures - 1);
  if (!gestures) history.getState().resume();
}

/** Do something that is undone in one step. */
export function inOneStep<Result>(act: () => Result): Result {
  beginGesture();
  try {
    return act();
  } finally {
    endGesture();
  }
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

/** Set dials of a slip on the open paper, a band, or a part of the stage. */
export function setDials(part: string, values: Record<string, DialValue>): void {
  if (part.startsWith(ON_STAGE)) {
    changePart(part.slice(ON_STAGE.length), (one) => ({ ...one, dials: { ...(one.dials as object), ...values } }));
    return;
  }
  const { material } = useDocuments.getState();
  if (!material.section.bands.some((band) => band.id === part)) {
    changeNetwork(({ slips }) => ({ slips: within(slips, part, values) }));
    return;
  }
  changeMaterial((m) => ({ ...m, section: { ...m.section, bands: within(m.section.bands, part, values) } }));
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
    const isSplit = bands.some((band) => band.id === id && splits(catalogueNow(), band));
    const left = bands
      .filter((band) => band.id !== id && !(isSplit && band.side === "second"))
      .map((band) => (isSplit ? { ...band, side: "both" as const } : band));
    const plain = catalogueNow().plain.material.section.bands[0].kind;
    return left.length ? left : [blankBand(plain, plain)];
  });
}

/** A band as it is before anything is set. */
export function blankBand(id: string, kind: string, dials: Band["dials"] = {}): Band {
  return { id, kind, on: true, name: "", side: "both", dials };
}
