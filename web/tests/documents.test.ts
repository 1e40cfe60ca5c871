import { beforeEach, expect, test, vi } from "vitest";
import {
  addLamp,
  beginGesture,
  changeMaterial,
  changePart,
  changeStage,
  chooseStage,
  endGesture,
  freeName,
  history,
  inOneStep,
  removeBand,
  setDials,
  switchBand,
  useDocuments,
} from "../src/bench/documents";
import { catalogue, keptStage, lay, materialOf, slip, stageOf, wire } from "./papers";

vi.mock("../src/api/catalogue", async (original) => ({
  ...(await original<typeof import("../src/api/catalogue")>()),
  catalogueNow: () => catalogue,
}));

const now = () => useDocuments.getState();
const undo = () => history.getState().undo();
const redo = () => history.getState().redo();
const named = (name: string) => changeMaterial((m) => ({ ...m, name }));

beforeEach(() => lay());

test("each change is a step back, and forward again", () => {
  named("first");
  named("second");
  undo();
  expect(now().material.name).toBe("first");
  undo();
  expect(now().material.name).toBe("Glass");
  undo();
  expect(now().material.name, "there is nothing before what was opened").toBe("Glass");
  redo();
  redo();
  expect(now().material.name).toBe("second");
});

test("a gesture is one step, however much it changes, and gestures may lie within one another", () => {
  beginGesture();
  for (const name of ["a", "b", "c"]) named(name);
  inOneStep(() => changeStage((s) => ({ ...s, time: 3 })));
  named("d");
  endGesture();
  undo();
  expect([now().material.name, now().stage.time]).toEqual(["Glass", undefined]);
  named("after");
  named("later");
  undo();
  expect(now().material.name, "what comes after a gesture is a step of its own again").toBe("after");
});

test("a gesture that fails ends all the same", () => {
  expect(() =>
    inOneStep(() => {
      named("half");
      throw new Error("broke off");
    }),
  ).toThrow("broke off");
  named("next");
  named("last");
  undo();
  expect(now().material.name).toBe("next");
});

test("what was before another material is opened cannot be undone", () => {
  named("changed");
  lay(materialOf({ name: "Other" }), [keptStage()], "m2");
  undo();
  expect([now().id, now().material.name]).toEqual(["m2", "Other"]);
});

test("a stage that is chosen is undone whole", () => {
  lay(materialOf(), [keptStage("s1"), keptStage("s2", stageOf({ name: "Cellar" }))]);
  chooseStage("s2");
  expect(now().stage.name).toBe("Cellar");
  undo();
  expect([now().stageId, now().stage.name]).toEqual(["s1", "Sill"]);
});

test("dials are set where they are: of a band, a slip, a part of the stage", () => {
  lay(materialOf({ slips: [slip("number", "number")] }));
  setDials("interface", { roughness: 0.4 });
  setDials("number", { value: 2 });
  setDials("stage:camera", { distance: 30 });
  setDials("stage:surround.light", { strength: 2 });
  expect(now().material.section.bands[0].dials).toEqual({ roughness: 0.4 });
  expect(now().material.slips[0].dials).toEqual({ value: 2 });
  expect(now().stage.camera.dials).toEqual({ distance: 30 });
  expect(now().stage.surround.light.dials).toEqual({ strength: 2 });
});

test("lamps get names of their own, and a path leads to each", () => {
  const lamp = { id: "lamp", kind: "disc", dials: {} } as never;
  expect([addLamp(lamp), addLamp(lamp)]).toEqual(["lamps.0", "lamps.1"]);
  expect(now().stage.lamps.map((one) => one.id)).toEqual(["lamp_1", "lamp_2"]);
  expect(freeName(now().stage, "lamp")).toBe("lamp_3");
  changePart("lamps.1", (one) => ({ ...one, kind: "sphere" }));
  expect(now().stage.lamps.map((one) => one.kind)).toEqual(["disc", "sphere"]);
});

test("a band that goes takes its wires along, and the last one becomes plain glass", () => {
  const bands = ["interface", "body"].map((kind) => ({ id: kind, kind, on: true, name: "", side: "both", dials: {} }));
  const wires = [wire("number.out", "body.color"), wire("number.out", "interface.roughness")];
  lay(materialOf({ section: { bands }, slips: [slip("number", "number")], wires }));
  removeBand("body");
  expect(now().material.wires.map((one) => one.target.part)).toEqual(["interface"]);
  switchBand("interface", false);
  removeBand("interface");
  expect(now().material.section.bands.map((one) => [one.kind, one.on])).toEqual([["interface", true]]);
});

test("without the split its first side stays", () => {
  const band = (id: string, kind: string, side = "both") => ({ id, kind, side, on: true, name: "", dials: {} });
  const bands = [band("fork", "fork"), band("one", "interface", "first"), band("two", "body", "second")];
  lay(materialOf({ section: { bands } }));
  removeBand("fork");
  expect(now().material.section.bands.map((one) => [one.id, one.side])).toEqual([["one", "both"]]);
});
