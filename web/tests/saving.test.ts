// @vitest-environment happy-dom
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { changeMaterial, changeStage, type Draft, history, openDraft, useDocuments } from "../src/bench/documents";
import { bringIn, draftOf, keepDrafts, save, settle, useSaving } from "../src/bench/saving";
import { useTold } from "../src/ui/told";
import { catalogue, keptMaterial, keptStage, lay, materialOf, stageOf } from "./papers";
import { answer, asked } from "./server";

vi.mock("../src/api/catalogue", async (original) => ({
  ...(await original<typeof import("../src/api/catalogue")>()),
  catalogueNow: () => catalogue,
}));

const named = (name: string) => changeMaterial((m) => ({ ...m, name }));
const here = () => useDocuments.getState();
const kept = () => JSON.parse(localStorage.getItem("nineglass-draft-m1") ?? "null");
let stop = () => {};

beforeEach(() => {
  localStorage.clear();
  lay();
  useSaving.setState({ state: "saved", says: "", conflict: undefined });
  stop = keepDrafts();
});
afterEach(() => stop());

test("what is saved is the next revision, and told as saved", async () => {
  named("Cut glass");
  expect(useSaving.getState().state).toBe("unsaved");
  answer("PUT /api/materials/m1", () => ({ body: keptMaterial("m1", here().material, 2) }));
  await save();
  expect([useSaving.getState().state, here().revision]).toEqual(["saved", 2]);
  expect(asked.find((one) => one.method === "PUT")?.body).toMatchObject({ based_on: 1, document: { name: "Cut glass" } });
});

test("what is turned while the answer is under way stays unsaved", async () => {
  named("first");
  answer("PUT /api/materials/m1", async () => {
    named("second");
    return { body: { ...keptMaterial(), revision: 2 } };
  });
  await save();
  expect([here().material.name, here().revision, useSaving.getState().state]).toEqual(["second", 2, "unsaved"]);
});

test("another material opened while saving is left alone", async () => {
  named("mine");
  answer("PUT /api/materials/m1", async () => {
    lay(materialOf({ name: "Other" }), [keptStage()], "m2");
    return { body: { ...keptMaterial(), revision: 7 } };
  });
  await save();
  expect([here().id, here().material.name, here().revision]).toEqual(["m2", "Other", 1]);
});

test("a stage that changed is saved with the material, and one that did not is not", async () => {
  answer("PUT /api/materials/m1", () => ({ body: { ...keptMaterial(), revision: 2 } }));
  answer("PUT /api/stages/s1", () => ({ body: { revision: 5 } }));
  await save();
  expect(asked.filter((one) => one.path === "/api/stages/s1")).toHaveLength(0);
  changeStage((s) => ({ ...s, time: 2 }));
  await save();
  expect([here().keptStages.s1.revision, useSaving.getState().state]).toEqual([5, "saved"]);
});

const conflict = () => {
  const theirs = materialOf({ name: "Theirs" });
  answer("PUT /api/materials/m1", (body) =>
    (body as { based_on: number }).based_on === 1
      ? { status: 409, body: { says: "", newest: keptMaterial("m1", theirs, 4) } }
      : { body: { ...keptMaterial(), revision: 5 } },
  );
};

test("a conflict keeps both, and mine can be saved over theirs", async () => {
  conflict();
  named("Mine");
  await save();
  expect([useSaving.getState().state, here().material.name]).toEqual(["unsaved", "Mine"]);
  await settle.keepMine();
  expect([here().revision, here().material.name, useSaving.getState().state]).toEqual([5, "Mine", "saved"]);
});

test("theirs can be taken up, and mine is one undo away", async () => {
  conflict();
  named("Mine");
  await save();
  settle.takeTheirs();
  expect([here().material.name, here().revision, useSaving.getState().conflict]).toEqual(["Theirs", 4, undefined]);
  history.getState().undo();
  expect(here().material.name).toBe("Mine");
});

test("mine can go on as a copy", async () => {
  conflict();
  named("Mine");
  await save();
  answer("POST /api/materials", (body) => ({
    status: 201,
    body: keptMaterial("m9", (body as { document: ReturnType<typeof materialOf> }).document),
  }));
  await settle.saveAsCopy();
  expect([here().id, here().material.name]).toEqual(["m9", "Mine, copy"]);
});

test("what both saved is on the bench, and it is said", async () => {
  named("Mine");
  const merged = materialOf({ name: "Mine", help: "theirs" });
  answer("PUT /api/materials/m1", () => ({ body: { ...keptMaterial("m1", merged, 3), is_merged: true } }));
  await save();
  expect([here().material, here().revision]).toEqual([merged, 3]);
  expect(useTold.getState().says).toMatch(/Saved together .* revision 3/);
});

test("a server that is away, or refuses, loses nothing", async () => {
  named("Mine");
  answer("PUT /api/materials/m1", () => Promise.reject(new TypeError("Failed to fetch")));
  await save();
  expect(useSaving.getState()).toMatchObject({
    state: "failed",
    says: "The server cannot be reached. Your work is kept in this browser.",
  });
  answer("PUT /api/materials/m1", () => ({ status: 422, body: { faults: [{ path: "name", fault: "too long" }] } }));
  await save();
  expect([useSaving.getState().state, here().material.name]).toEqual(["failed", "Mine"]);
  stop();
  expect(kept().material.name, "and it is kept in the browser").toBe("Mine");
});

test("what is unsaved is kept when the page is left, and taken up as it was", async () => {
  named("Half done");
  window.dispatchEvent(new Event("pagehide"));
  expect(kept().material.name).toBe("Half done");
  expect((await draftOf("m1"))?.material.name).toBe("Half done");
  history.getState().undo();
  window.dispatchEvent(new Event("pagehide"));
  stop();
  expect(kept(), "what is as saved needs no draft").toBeNull();
});

test("a stage of a draft overwrites none that was saved since, and comes as it is now where the draft left it alone", async () => {
  changeStage((stage) => ({ ...stage, name: "Mine" }));
  window.dispatchEvent(new Event("pagehide"));
  const draft = await draftOf("m1");
  expect(draft?.stageRevision).toBe(1);
  const newer = keptStage("s1", stageOf({ name: "Theirs" }), 2);
  openDraft(keptMaterial(), [newer], newer, draft as Draft);
  expect(here().stage.name).toBe("Mine");
  answer("PUT /api/materials/m1", () => ({ body: { ...keptMaterial(), revision: 2 } }));
  answer("PUT /api/stages/s1", () => ({ status: 409, body: { says: "newer", newest: newer, both: ["camera"] } }));
  await save();
  expect(asked.find((one) => one.path === "/api/stages/s1" && one.method === "PUT")?.body).toMatchObject({ based_on: 1 });
  expect(useSaving.getState().says).toMatch(/stage was changed elsewhere as well: camera/);
  await save();
  const saves = asked.filter((one) => one.path === "/api/stages/s1" && one.method === "PUT");
  expect(saves.at(-1)?.body).toMatchObject({ based_on: 2 });
  openDraft(keptMaterial(), [newer], newer, { ...(draft as Draft), stageRevision: null });
  expect(here().stage.name).toBe("Theirs");
});

test("a draft of an older version is brought up by the server, and stays where it cannot be", async () => {
  const old = { revision: 1, stageId: "s1", material: { ...materialOf(), version: 1 }, stage: stageOf() };
  localStorage.setItem("nineglass-draft-m1", JSON.stringify(old));
  answer("POST /api/stages/draft", () => ({ body: { material: materialOf({ name: "Brought up" }), stage: stageOf() } }));
  expect((await draftOf("m1"))?.material.name).toBe("Brought up");
  answer("POST /api/stages/draft", () => ({ status: 422, body: { faults: [] } }));
  expect(await draftOf("m1")).toBeUndefined();
  expect(kept().revision).toBe(1);
  localStorage.setItem("nineglass-draft-m1", "{half");
  expect(await draftOf("m1"), "half a draft is none").toBeUndefined();
});

test("a full storage is told", () => {
  const full = () => {
    throw new DOMException("full", "QuotaExceededError");
  };
  vi.stubGlobal("localStorage", { getItem: () => null, setItem: full, removeItem: () => {} });
  named("a");
  window.dispatchEvent(new Event("pagehide"));
  expect(useTold.getState().says).toMatch(/storage is full/);
  vi.unstubAllGlobals();
});

test("what was saved elsewhere comes in where nothing is unsaved, and is merged by a save where something is", async () => {
  answer("GET /api/materials/m1", () => ({ body: keptMaterial("m1", materialOf({ name: "Newer" }), 6) }));
  await bringIn();
  expect([here().material.name, here().revision]).toEqual(["Newer", 6]);
  named("Mine on top");
  answer("PUT /api/materials/m1", () => ({ body: { ...keptMaterial(), revision: 7 } }));
  await bringIn();
  expect(asked.some((one) => one.method === "PUT")).toBe(true);
});
