import assert from "node:assert/strict";
import { test } from "vitest";
import { fromHex, toHex } from "../src/ui/colors";
import { gradientOf, pathThrough } from "../src/ui/stops";

test("linear light and sRGB, there and back", () => {
  // IEC 61966-2-1: linear 0.2140 is sRGB 0.5.
  assert.equal(toHex([0.214, 0.214, 0.214]), "#7f7f7f");
  assert.equal(toHex([2, -1, 1]), "#ff00ff");
  for (const hex of ["#000000", "#123456", "#ffffff"]) assert.equal(toHex(fromHex(hex) ?? []), hex);
  assert.equal(fromHex("red"), undefined);
});

test("stops as a gradient: straight, in steps", () => {
  const stops: [number, [number, number, number]][] = [
    [0, [0, 0, 0]],
    [1, [1, 1, 1]],
  ];
  assert.match(gradientOf(stops), /#000000 0%.*#ffffff 100%/);
  assert.match(gradientOf(stops, "step"), /#000000 100%, #ffffff 100%/);
});

test("a line through points does not run past them", () => {
  const same = (v: number) => v;
  const line = pathThrough(
    [
      [0, 0],
      [0.5, 1],
      [1, 0],
    ],
    "through",
    same,
    same,
  );
  const heights = [...line.matchAll(/[-\d.]+,([-\d.]+)/g)].map((found) => Number(found[1]));
  assert.ok(Math.max(...heights) <= 1 && Math.min(...heights) >= 0, line);
});
