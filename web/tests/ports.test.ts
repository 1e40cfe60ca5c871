import { expect, test } from "vitest";
import { type Paper, conversion, whyNot, wireTo } from "../src/network/ports";
import { catalogue, materialOf, slip, wire } from "./papers";

const slips = [slip("number", "number"), slip("ramp", "ramp"), slip("place", "place"), slip("paint", "paint")];
const paper = (wires: ReturnType<typeof wire>[] = [], more: object = {}): Paper =>
  ({ slips, wires, mounts: [], modules: [], bands: materialOf().section.bands, ...more }) as unknown as Paper;
const why = (from: string, to: string, on = paper()) => whyNot(catalogue, on, wire(from, to));

test("a wire runs where the types are alike or one becomes the other", () => {
  expect(why("number.out", "ramp.at")).toBeUndefined();
  expect(why("ramp.out", "interface.roughness")).toBeUndefined();
  expect(conversion(catalogue, "number", "color")).toBe("number to grey");
  expect(conversion(catalogue, "color", "color")).toBe("");
  expect(conversion(catalogue, "vector", "number")).toBeUndefined();
});

test("why a wire cannot be is said in words", () => {
  expect(why("place.out", "interface.roughness")).toMatch(/A vector does not become a number/);
  expect(why("number.out", "ramp.nothing")).toBe("This dial cannot be driven.");
  const looped = paper([wire("number.out", "ramp.at"), wire("ramp.out", "paint.amount")]);
  expect(why("paint.out", "number.value", looped)).toMatch(/in a circle|does not become/);
  expect(why("ramp.out", "number.value", looped)).toBe("That would run in a circle.");
  expect(why("ramp.out", "ramp.at"), "not even to itself").toBe("That would run in a circle.");
});

test("a dial that is the module's own is driven from outside", () => {
  const open = { id: "m", dials: [{ name: "at", label: "", target: { part: "ramp", dial: "at" } }], gives: [] };
  expect(why("number.out", "ramp.at", paper([], { open }))).toMatch(/one of the module’s own/);
});

test("what a module gives keeps its type", () => {
  const gives = [{ name: "out", source: { slip: "ramp", port: "out" } }];
  const within = paper([], { open: { id: "m", dials: [], gives } });
  expect(why("number.out", "Gives.out", within)).toBeUndefined();
  expect(why("place.out", "Gives.out", within)).toMatch(/needs a port of its own/);
});

test("of several dials the first that fits and is free is wired, one of the same type before others", () => {
  expect(wireTo(catalogue, paper(), "ramp", { side: "gives", part: "number", name: "out" } as never)).toEqual(
    wire("number.out", "ramp.at"),
  );
  const taken = paper([wire("number.out", "ramp.at")]);
  expect(wireTo(catalogue, taken, "ramp", { side: "gives", part: "paint", name: "out" } as never)).toBeUndefined();
  expect(wireTo(catalogue, paper(), "number", { side: "takes", part: "interface", name: "roughness" } as never)).toEqual(
    wire("number.out", "interface.roughness"),
  );
});
