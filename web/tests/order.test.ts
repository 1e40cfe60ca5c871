import assert from "node:assert/strict";
import { test } from "vitest";
import type { Band, Catalogue } from "../src/api/client";
import { inCompanyOf, moved, movedTo, whyNotSo, withBand } from "../src/section/order";

const kind = (name: string, rank: number, more: object = {}) => ({
  role: "band",
  name,
  title: name,
  rules: { rank, most: 1, why: `${name} has its place`, excludes: [], splits: false, ...more },
});
const catalogue = {
  kinds: [
    kind("skin", 0, { most: 2 }),
    kind("fork", 1, { splits: true }),
    kind("wall", 2),
    kind("plate", 2, { excludes: ["wall"], why: "a plate lets nothing through" }),
  ],
} as unknown as Catalogue;
const band = (id: string, of: string, side: Band["side"] = "both") => ({ id, kind: of, side, on: true, name: "", dials: {} });

test("bands lie by their ranks, as often as they may, and not with what they exclude", () => {
  assert.equal(whyNotSo(catalogue, [band("a", "skin"), band("b", "wall")]), undefined);
  assert.match(whyNotSo(catalogue, [band("b", "wall"), band("a", "skin")]) ?? "", /cannot lie beneath/);
  assert.match(whyNotSo(catalogue, ["a", "b", "c"].map((id) => band(id, "skin"))) ?? "", /2 of skin at most/);
  assert.equal(whyNotSo(catalogue, [band("a", "plate"), band("b", "wall")]), "A plate lets nothing through.");
  assert.match(whyNotSo(catalogue, [band("a", "wall", "first")]) ?? "", /beneath the split/);
});

test("a band is added as far out as it may lie", () => {
  const bands = [band("a", "skin"), band("b", "wall")];
  assert.deepEqual(withBand(catalogue, bands, band("n", "skin"))?.map((one) => one.id), ["n", "a", "b"]);
  assert.equal(withBand(catalogue, bands, band("n", "plate")), undefined);
  assert.deepEqual(inCompanyOf(catalogue, bands, "plate").map((one) => one.id), ["a"]);
});

test("carried bands land where they are let go", () => {
  const bands = ["a", "b", "c"].map((id) => band(id, "skin"));
  const ids = (some: Band[]) => some.map((one) => one.id).join("");
  assert.equal(ids(movedTo(bands, "a", 3)), "bca");
  assert.equal(ids(movedTo(bands, "c", 0)), "cab");
  assert.equal(movedTo(bands, "b", 1), bands);
  assert.equal(ids(moved(bands, "a", 1)), "bac");
});
