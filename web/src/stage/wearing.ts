/** What objects wear: taken from a material of the person's, which it then follows. */
import { api, type Stage, type StageOut, type Whose } from "../api/client";
import { stageIsKept } from "../api/queries";
import { changePart, history, useDocuments } from "../bench/documents";
import { tell } from "../ui/told";
import { useChosenPart } from "./chosen";

type StageObject = Stage["objects"][number];
type Wear = StageObject["wears"][string];

/** Have a part of an object wear something: of a material's own, or the one on the bench. */
function wear(at: number, part: string, wears: Partial<Wear>): void {
  changePart(`objects.${at}`, (o) => {
    const before = (o as unknown as StageObject).wears;
    return { ...o, wears: { ...before, [part]: { ...before[part], ...wears } } };
  });
}

/** Have a part of an object wear a material and follow it; without one, what is on the bench. */
export async function wearMaterial(at: number, part: string, material_id?: string): Promise<void> {
  if (!material_id) {
    wear(at, part, { material: null, follows: null });
    return;
  }
  const { data } = await api.GET("/api/materials/{material_id}", { params: { path: { material_id } } });
  if (data) wear(at, part, { material: data.document as Wear["material"], follows: material_id });
}

/** Keep what a part wears as it is now, whatever becomes of where it was taken from. */
export function detach(at: number, part: string): void {
  wear(at, part, { follows: null });
}

/** Drop a material on an object of the stage. */
export function dropOn(object: string, part: string, material_id: string): void {
  const { stage, id } = useDocuments.getState();
  const at = stage.objects.findIndex((one) => one.id === object);
  if (at < 0) return;
  useChosenPart.getState().choose(`objects.${at}`);
  wearMaterial(at, part, material_id === id ? undefined : material_id);
}

const DRAGGED = "application/x-nineglass-material";

/** Take a material along with the pointer. */
export function carry(event: React.DragEvent, material_id: string): void {
  event.dataTransfer.setData(DRAGGED, material_id);
  event.dataTransfer.effectAllowed = "copy";
}

/** Let a carried material be dropped here. */
export function allowDrop(event: React.DragEvent): void {
  if (!event.dataTransfer.types.includes(DRAGGED)) return;
  event.preventDefault();
  event.dataTransfer.dropEffect = "copy";
}

export const carriedTo = (event: React.DragEvent): string => event.dataTransfer.getData(DRAGGED);

let dropped = "";

/** A material was dropped on the picture; the renderer is asked on what. */
export function waitForWhose(material_id: string): void {
  dropped = material_id;
}

/** What was dropped goes where the renderer says that it was. */
export function wearWhereDropped({ object, part }: Whose): void {
  if (dropped && object) dropOn(object, part, dropped);
  else if (dropped) tell("There is no form at that place: drop a material on one.");
  dropped = "";
}

/** Stages whose objects follow a material wear it as it was just saved. */
export function followSaved(material_id: string, material: Wear["material"]): void {
  const newer = (stage: Stage): Stage => {
    const follows = (one: StageObject) => Object.values(one.wears).some((w) => w.follows === material_id);
    if (!stage.objects.some(follows)) return stage;
    const worn = (one: StageObject) =>
      Object.fromEntries(
        Object.entries(one.wears).map(([part, w]) => [part, w.follows === material_id ? { ...w, material } : w]),
      );
    return { ...stage, objects: stage.objects.map((one) => (follows(one) ? { ...one, wears: worn(one) } : one)) };
  };
  const { stage, stageId, keptStages } = useDocuments.getState();
  const renewed = (one: StageOut): StageOut => {
    const document = newer(one.document);
    if (document === one.document) return one;
    stageIsKept({ ...one, document });
    return { ...one, document };
  };
  const kept = Object.entries(keptStages).map(([id, one]) => [id, renewed(one)] as const);
  const isAsKept = keptStages[stageId]?.document === stage;
  const keptNow = Object.fromEntries(kept);
  history.getState().pause();
  useDocuments.setState({ keptStages: keptNow, stage: isAsKept ? keptNow[stageId].document : newer(stage) });
  history.getState().resume();
}
