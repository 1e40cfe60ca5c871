import { beforeEach, expect, test, vi } from "vitest";
import { changeMaterial, history, useDocuments } from "../src/bench/documents";
import { closeModule, detach, expose, groupSlips, openUse, renameGiven, shifted, takeApart } from "../src/network/grouping";
import { DEEPEST } from "../src/network/modules";
import { useTold } from "../src/ui/told";
import { catalogue, lay, materialOf, slip, wire } from "./papers";

vi.mock("../src/api/catalogue", async (original) => ({
  ...(await original<typeof import("../src/api/catalogue")>()),
  catalogueNow: () => catalogue,
}));

const material = () => useDocuments.getState().material;
const undo = () => history.getState().undo();

/** number -> ramp -> interface.roughness */
beforeEach(() => {
  const slips = [slip("number", "number", { at: [100, 100] }), slip("ramp", "ramp", { at: [300, 100] })];
  const wires = [wire("number.out", "ramp.at"), wire("ramp.out", "interface.roughness")];
  lay(materialOf({ slips, wires }));
});

test("a group is a slip in their place: what drove them drives it, and what they drove it drives", () => {
  const use = groupSlips(catalogue, ["ramp"]) ?? "";
  expect(material().slips.map((one) => one.id)).toEqual(["number", use]);
  const [module] = material().modules;
  expect([module.dials.map((one) => one.name), module.gives.map((one) => one.name)]).toEqual([["at"], ["out"]]);
  expect(material().wires).toContainEqual(wire("number.out", `${use}.at`));
  expect(material().wires).toContainEqual(wire(`${use}.out`, "interface.roughness"));
  undo();
  expect([material().modules, material().slips.map((one) => one.id)], "undone in one step").toEqual([
    [],
    ["number", "ramp"],
  ]);
});

test("wires among them lie within", () => {
  groupSlips(catalogue, ["number", "ramp"]);
  expect(material().modules[0].wires).toEqual([wire("number.out", "ramp.at")]);
  expect(material().wires).toHaveLength(1);
});

test("slips that drive nothing give what they have; notes give nothing", () => {
  lay(materialOf({ slips: [slip("number", "number"), slip("note", "note")] }));
  groupSlips(catalogue, ["number", "note"]);
  expect(material().modules[0].gives.map((one) => one.source.slip)).toEqual(["number"]);
});

test("taken apart it is as it was, set as the use was", () => {
  const use = groupSlips(catalogue, ["number", "ramp"]) ?? "";
  openUse(use);
  expose("number", "value", true);
  closeModule();
  useDocuments.setState({
    material: { ...material(), slips: material().slips.map((one) => ({ ...one, dials: { value: 0.7 } })) },
  });
  const back = takeApart(use);
  expect(back).toHaveLength(2);
  const number = material().slips.find((one) => one.kind === "number");
  const ramp = material().slips.find((one) => one.kind === "ramp");
  expect([number?.dials, number?.at, ramp?.at]).toEqual([{ value: 0.7 }, expect.anything(), expect.anything()]);
  expect(material().wires).toContainEqual(wire(`${number?.id}.out`, `${ramp?.id}.at`));
  expect(material().wires).toContainEqual(wire(`${ramp?.id}.out`, "interface.roughness"));
});

test("a use that is detached no longer follows the others", () => {
  const use = groupSlips(catalogue, ["ramp"]) ?? "";
  const [module] = material().modules;
  changeMaterial((m) => ({ ...m, slips: [...m.slips, slip("other", "module", { module: module.id })] }));
  detach(use);
  expect(material().modules).toHaveLength(2);
  expect(material().slips.find((one) => one.id === "other")?.module).toBe(module.id);
  expect(material().slips.find((one) => one.id === use)?.module).toBe(material().modules[1].id);
  expect(material().modules[1].name).toMatch(/, detached$/);
});

test("wires follow what is given by another name", () => {
  const use = groupSlips(catalogue, ["ramp"]) ?? "";
  openUse(use);
  renameGiven("out", "Rim wear");
  expect(material().modules[0].gives[0].name).toBe("rim_wear");
  expect(material().wires).toContainEqual(wire(`${use}.rim_wear`, "interface.roughness"));
});

test("modules lie only so deep within one another, and it is said", () => {
  for (let n = 0; n < DEEPEST; n++) groupSlips(catalogue, [material().slips[material().slips.length - 1].id]);
  const deep = material().modules.length;
  expect(groupSlips(catalogue, [material().slips[material().slips.length - 1].id])).toBeUndefined();
  expect(material().modules).toHaveLength(deep);
  expect(useTold.getState().says).toMatch(/not deeper/);
});

test("an open module closes when undo takes it away", () => {
  const use = groupSlips(catalogue, ["ramp"]) ?? "";
  openUse(use);
  expect(useDocuments.getState().inside).toEqual([use]);
  undo();
  expect(useDocuments.getState().inside).toEqual([]);
});

test("parts are shifted within their list and not beyond its ends", () => {
  expect(shifted([1, 2, 3], 0, 1)).toEqual([2, 1, 3]);
  expect(shifted([1, 2, 3], 2, 1)).toEqual([1, 2, 3]);
});
