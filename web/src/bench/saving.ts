/** Saving with revisions, and drafts that survive a closed tab. */
import { create } from "zustand";
import { catalogueNow } from "../api/catalogue";
import {
  api,
  type Conflict,
  type Material,
  type MaterialOut,
  type Stage,
  type StageConflict,
  type StageOut,
  wordsOf,
} from "../api/client";
import { queries, readAnew, standOn } from "../api/queries";
import { followSaved } from "../stage/wearing";
import { tell as tellPerson } from "../ui/told";
import { changeMaterial, changeStage, type Draft, open, stageWasSaved, useDocuments } from "./documents";

interface Saving {
  state: "saved" | "unsaved" | "saving" | "failed";
  says: string;
  conflict?: Conflict;
}

export const useSaving = create<Saving>()(() => ({ state: "saved", says: "" }));

const LONGEST_NAME = 120;

const draftKey = (id: string) => `nineglass-draft-${id}`;

function isChanged(): boolean {
  const { material, saved, stage, stageId, keptStages } = useDocuments.getState();
  return material !== saved || stage !== keptStages[stageId]?.document;
}

let isFull = false;

function keepOnThisMachine(key: string, draft: string): void {
  try {
    localStorage.setItem(key, draft);
    isFull = false;
  } catch {
    if (!isFull) tellPerson("The browser's storage is full: what is unsaved is not kept here. Save your work.");
    isFull = true;
  }
}

/** Keep what is unsaved on this machine while working. */
export function keepDrafts(): () => void {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const keep = () => {
    timer = undefined;
    const { id, revision, stageId, material, stage, keptStages } = useDocuments.getState();
    if (!id) return;
    const kept = keptStages[stageId];
    const stageRevision = stage === kept?.document ? null : kept?.revision;
    const draft = { revision, stageId, material, stage, stageRevision };
    if (isChanged()) keepOnThisMachine(draftKey(id), JSON.stringify(draft));
    else localStorage.removeItem(draftKey(id));
  };
  const tell = () => {
    if (useSaving.getState().state !== "saving") useSaving.setState({ state: isChanged() ? "unsaved" : "saved" });
  };
  tell();
  const stop = useDocuments.subscribe((now, before) => {
    tell();
    if (now.id === before.id && now.stageId !== before.stageId) standOn(now.stageId, now.id);
    timer ??= setTimeout(keep, 300);
  });
  const leave = () => timer && keep();
  window.addEventListener("pagehide", leave);
  return () => {
    stop();
    clearTimeout(timer);
    leave();
    window.removeEventListener("pagehide", leave);
  };
}

function keptDraft(id: string): Draft | undefined {
  try {
    return JSON.parse(localStorage.getItem(draftKey(id)) ?? "null") ?? undefined;
  } catch {
    return undefined;
  }
}

/** The draft of a material; one of an older version is brought up by the server, or stays where it is when it cannot be. */
export async function draftOf(id: string): Promise<Draft | undefined> {
  const draft = keptDraft(id);
  if (!draft) return undefined;
  const { plain } = catalogueNow();
  const { material, stage } = draft;
  if (material.version === plain.material.version && stage.version === plain.stage.version) return draft;
  const { data, error } = await api.POST("/api/stages/draft", { body: { material, stage } });
  if (data) return { ...draft, material: data.material as Material, stage: data.stage as Stage };
  tellPerson(`A draft of an older version is kept in this browser but cannot be opened. ${wordsOf(error)}`);
  return undefined;
}

/** Save the material, and the stage when it changed. Another material may be on the bench before the answer comes. */
export async function save(): Promise<void> {
  if (useSaving.getState().state === "saving") return;
  const sent = useDocuments.getState();
  useSaving.setState({ state: "saving", says: "", conflict: undefined });
  const outcome = await send(sent);
  const isHere = useDocuments.getState().id === sent.id;
  useSaving.setState(isHere && outcome ? outcome : { state: isChanged() ? "unsaved" : "saved", says: "" });
}

type Sent = ReturnType<typeof useDocuments.getState>;

/** What there is to say when it was not all saved. */
async function send(sent: Sent): Promise<Saving | undefined> {
  const path = { params: { path: { material_id: sent.id } } };
  const body = { based_on: sent.revision, document: sent.material };
  try {
    const { data, error, response } = await api.PUT("/api/materials/{material_id}", { ...path, body });
    if (response.status === 409) return { state: "unsaved", says: "", conflict: error as Conflict };
    if (!data) throw new Error(wordsOf(error));
    if (data.is_merged) materialWasMerged(sent, data.revision, data.document as Material);
    else materialWasSaved(sent, data.revision);
    const stage = sent.keptStages[sent.stageId];
    if (sent.stage !== stage.document) await saveStage(stage, sent.stage);
    forgetDraft(sent);
  } catch (problem) {
    const says =
      problem instanceof Error && problem.message !== "Failed to fetch"
        ? problem.message
        : "The server cannot be reached.";
    return { state: "failed", says: `${says} Your work is kept in this browser.` };
  }
}

function materialWasSaved({ id, material }: Sent, revision: number): void {
  if (useDocuments.getState().id === id) useDocuments.setState({ revision, saved: material });
  followSaved(id, material);
  readAnew(["materials"]);
  queries.setQueryData<MaterialOut>(["material", id], (old) => old && { ...old, revision, document: material });
}

/** Somebody else saved since: what both did comes on the bench, unless it was changed again meanwhile; then the next save merges. */
function materialWasMerged({ id, material }: Sent, revision: number, document: Material): void {
  const now = useDocuments.getState();
  readAnew(["material", id]);
  if (now.id !== id || now.material !== material) return;
  takeIn(revision, document);
  tellPerson(`Saved together with what was changed elsewhere: revision ${revision}.`);
}

/** Have a revision of the server's on the bench, as saved; undo goes back. */
function takeIn(revision: number, document: Material): void {
  changeMaterial(() => document);
  useDocuments.setState({ revision, saved: document });
  materialWasSaved(useDocuments.getState(), revision);
}

/** What was saved elsewhere comes to what is here. */
export async function bringIn(): Promise<void> {
  const { id, material, saved } = useDocuments.getState();
  if (material !== saved) return save();
  const { data } = await api.GET("/api/materials/{material_id}", { params: { path: { material_id: id } } });
  if (data && useDocuments.getState().material === material) takeIn(data.revision, data.document as Material);
}

/** The draft of a material that left the bench before it was saved. */
function forgetDraft({ id, material }: Sent): void {
  if (useDocuments.getState().id !== id && JSON.stringify(keptDraft(id)?.material) === JSON.stringify(material))
    localStorage.removeItem(draftKey(id));
}

async function saveStage(kept: StageOut, stage: Stage): Promise<void> {
  const path = { params: { path: { stage_id: kept.id } } };
  const body = { based_on: kept.revision, document: stage };
  const { data, error, response } = await api.PUT("/api/stages/{stage_id}", { ...path, body });
  if (response.status === 409) {
    const { newest, both } = error as StageConflict;
    stageWasSaved(newest);
    const what = both.length ? `: ${both.join(", ")}` : "";
    throw new Error(
      `The stage was changed elsewhere as well${what}. The material is saved; save again to keep your stage.`,
    );
  }
  if (!data) throw new Error(wordsOf(error));
  const { is_merged, ...saved } = data;
  stageWasSaved(
    is_merged ? (saved as StageOut) : { ...kept, name: stage.name, revision: saved.revision, document: stage },
  );
  const now = useDocuments.getState();
  if (!is_merged || now.stageId !== kept.id || now.stage !== stage) return;
  changeStage(() => saved.document as Stage);
  tellPerson(`The stage was saved together with what was changed elsewhere: revision ${saved.revision}.`);
}

const copyOf = (material: Material): Material => ({
  ...material,
  name: `${material.name}, copy`.slice(0, LONGEST_NAME),
});

/** A new material of clear glass, or a copy of the one on the bench; gives its id. */
export async function makeMaterial(isCopy: boolean): Promise<string | undefined> {
  const { material, stageId } = useDocuments.getState();
  const plain = catalogueNow().plain.material as Material;
  const document = isCopy ? copyOf(material) : plain;
  const { data, error } = await api.POST("/api/materials", { body: { document } });
  if (!data) {
    tellPerson(wordsOf(error));
    return undefined;
  }
  standOn(stageId, data.id);
  return data.id;
}

/** A copy of another material of the person's, to go on with; on the stage of this one. */
export async function copyOfMaterial(material_id: string): Promise<string | undefined> {
  const { data } = await api.GET("/api/materials/{material_id}", { params: { path: { material_id } } });
  if (!data) return undefined;
  const { data: made, error } = await api.POST("/api/materials", {
    body: { document: copyOf(data.document as Material) },
  });
  if (!made) tellPerson(wordsOf(error));
  return made?.id;
}

/** Ways out of a conflict; none loses either side. */
export const settle = {
  /** Save mine as the next revision; theirs stays in the revisions. */
  async keepMine(): Promise<void> {
    const conflict = useSaving.getState().conflict;
    if (!conflict) return;
    useDocuments.setState({ revision: conflict.newest.revision });
    await save();
  },
  /** Take up theirs; mine stays one undo away. */
  takeTheirs(): void {
    const conflict = useSaving.getState().conflict;
    if (!conflict) return;
    const theirs = conflict.newest.document;
    changeMaterial(() => theirs);
    useDocuments.setState({ revision: conflict.newest.revision, saved: theirs });
    useSaving.setState({ state: "saved", conflict: undefined });
  },
  /** Save mine as a new material and go on there. */
  async saveAsCopy(): Promise<MaterialOut | undefined> {
    const mine = useDocuments.getState().material;
    const document = copyOf(mine);
    const { data } = await api.POST("/api/materials", { body: { document } });
    if (!data) return undefined;
    const made = data as MaterialOut;
    localStorage.removeItem(draftKey(useDocuments.getState().id));
    useSaving.setState({ state: "saved", conflict: undefined });
    const { keptStages, stageId } = useDocuments.getState();
    open(made, Object.values(keptStages), keptStages[stageId]);
    return made;
  },
};
