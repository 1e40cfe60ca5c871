import assert from "node:assert/strict";
import { test } from "vitest";
import type { DialAbout } from "../src/api/client";
import { allowed, parse, placeOf, rangeWords, say, sayApart, spanOf, valueAt } from "../src/ui/numbers";

const depth = { low: 0.05, high: 100, hard_low: 0.001, hard_high: 1e5, scale: "log", unit: "cm" } as DialAbout;

test("a number is read with a unit, as a sum, and not otherwise", () => {
  assert.equal(parse("0.5 mm", "cm"), 0.05);
  assert.equal(parse("1.5168+0.044", ""), 1.5608);
  assert.equal(parse("1,5 kK", "K"), 1500);
  assert.equal(parse("4 %", ""), 0.04);
  assert.equal(parse("3 kg", "cm"), undefined);
  assert.equal(parse("1 2", ""), undefined);
  assert.equal(parse("", ""), undefined);
});

test("what is said has no needless figures", () => {
  assert.deepEqual([0, 1.52, 0.05, 300000, 23456.7, 3e7, 0.00001].map(say), ["0", "1.52", "0.05", "300000", "23500", "3.0e+7", "1.0e-5"]);
});

test("two colours are no further apart than an eye tells", () => {
  assert.deepEqual([6.6e-6, 0.0149, 0.26, 12.34].map(sayApart), ["0", "0.01", "0.26", "12"]);
});

test("a logarithmic track runs evenly over decades, there and back", () => {
  const span = spanOf(depth, 1);
  assert.ok(Math.abs(placeOf(depth, Math.sqrt(0.05 * 100), span) - 0.5) < 1e-9);
  for (const value of [0.05, 0.7, 12, 100]) assert.ok(Math.abs(valueAt(depth, placeOf(depth, value, span), span) / value - 1) < 1e-3);
  assert.equal(spanOf(depth, 500).high, 500, "the range widens to what was typed past it");
  assert.equal(allowed(depth, 1e9), 1e5);
});

test("a range that arrives is told plainly", () => {
  assert.equal(rangeWords({ low: 0.12, high: 0.87 }, ""), "0.12 to 0.87");
  assert.equal(rangeWords({ low: 1.8e-6, high: 1 }, ""), "0 to 1");
  assert.equal(rangeWords({ low: -1, high: 1 }, "nm"), "-1 to 1 nm");
  assert.equal(rangeWords({ low: 0.3, high: 0.3 }, ""), "0.3");
  assert.equal(rangeWords({}, ""), "driven");
});

test("a logarithmic dial that may be nothing has it at its low end", () => {
  const amount = { low: 0.01, high: 1000, hard_low: 0, hard_high: 1e6, scale: "log", unit: "" } as DialAbout;
  const span = spanOf(amount, 0);
  assert.deepEqual(span, { low: 0.01, high: 1000 });
  assert.equal(placeOf(amount, 0, span), 0);
  assert.equal(valueAt(amount, 0, span), 0);
  assert.ok(Math.abs(valueAt(amount, 0.2, span) - 0.1) < 1e-6);
});
