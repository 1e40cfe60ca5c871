/** Numbers as people read and type them. */
import type { DialAbout } from "../api/client";

/** To units of the dial: factor of each unit that may be typed. */
const UNITS: Record<string, Record<string, number>> = {
  cm: { um: 1e-4, mm: 0.1, cm: 1, dm: 10, m: 100, km: 100000 },
  mm: { um: 1e-3, mm: 1, cm: 10, m: 1000 },
  nm: { nm: 1, um: 1000 },
  um: { nm: 0.001, um: 1, mm: 1000 },
  W: { mW: 0.001, W: 1, kW: 1000 },
  K: { K: 1, kK: 1000 },
  deg: { deg: 1, "°": 1 },
  EV: { EV: 1 },
  s: { ms: 0.001, s: 1, min: 60 },
  "%": { "%": 1 },
  "g/l": { "g/l": 1, "mg/l": 0.001 },
  "m/s": { "m/s": 1 },
  "W/m2": { "W/m2": 1 },
};

const TERM = /^([+-]?\d*\.?\d+(?:e[+-]?\d+)?)\s*([a-zA-Z°%µ]*(?:\/[a-z]+2?)?)/;

/** Reads "0.5 mm", "1500 K", "1.5168+0.044" or "4 %" in the dial's unit; undefined when it is not understood. */
export function parse(text: string, unit: string): number | undefined {
  let rest = text.replace(",", ".").replace(/µ/g, "u").trim();
  let sum: number | undefined;
  while (rest) {
    const joined = sum === undefined ? rest : rest.replace(/^([+-])\s+/, "$1");
    if (sum !== undefined && !/^[+-]/.test(joined)) return undefined;
    const found = TERM.exec(joined);
    if (!found) return undefined;
    const factor = factorOf(found[2], unit);
    if (factor === undefined) return undefined;
    sum = (sum ?? 0) + Number(found[1]) * factor;
    rest = joined.slice(found[0].length).trim();
  }
  return sum !== undefined && Number.isFinite(sum) ? Number(sum.toPrecision(12)) : undefined;
}

function factorOf(typed: string, unit: string): number | undefined {
  if (!typed) return 1;
  if (typed === "%" && unit !== "%") return unit ? undefined : 0.01;
  return UNITS[unit]?.[typed];
}

const LARGEST_IN_FULL = 1e7;

/** Three or four significant digits, no needless zeros; large whole numbers in full. */
export function say(value: number): string {
  if (value === 0) return "0";
  const size = Math.abs(value);
  if (size >= LARGEST_IN_FULL || size < 0.0001) return value.toExponential(1);
  if (size >= 10000 && Number.isInteger(value)) return String(value);
  return String(Number(value.toPrecision(size >= 1 && size < 10 ? 4 : 3)));
}

/** How far apart two colours are, in ΔE: two significant digits, and nothing below a hundredth, which no eye tells. */
export const sayApart = (deltaE: number) => say(Number(Number(deltaE.toPrecision(2)).toFixed(2)));

export const withUnit = (value: number, unit: string) => (unit ? `${say(value)} ${unit}` : say(value));

interface Span {
  low: number;
  high: number;
}

/** The range on screen, widened when the value lies past it. */
export function spanOf(dial: DialAbout, value: number): Span {
  const high = Math.max(dial.high ?? 1, value);
  if (dial.scale !== "log") return { low: Math.min(dial.low ?? 0, value), high };
  return { low: Math.max(Math.min(dial.low ?? 1, value > 0 ? value : Infinity), 1e-9), high };
}

/** Place of a value along a track, 0 to 1; nothing is at the low end of a logarithmic one. */
export function placeOf(dial: DialAbout, value: number, { low, high }: Span): number {
  if (dial.scale === "log") return Math.log(Math.max(value, low) / low) / Math.log(high / low);
  return (value - low) / (high - low);
}

/** The value at a place along a track, within what is allowed, rounded to what can be seen. */
export function valueAt(dial: DialAbout, place: number, { low, high }: Span): number {
  const p = Math.min(Math.max(place, 0), 1);
  if (dial.scale === "log" && p === 0 && (dial.hard_low ?? low) <= 0) return 0;
  const value = dial.scale === "log" ? low * (high / low) ** p : low + (high - low) * p;
  return allowed(dial, Number(value.toPrecision(4)));
}

export function allowed(dial: DialAbout, value: number): number {
  return Math.min(Math.max(value, dial.hard_low ?? -Infinity), dial.hard_high ?? Infinity);
}

/** Less than this share of a range is told as nothing. */
const HARDLY = 0.001;

/** The range that arrives at a dial. */
export function rangeWords({ low, high }: { low?: number; high?: number }, unit: string): string {
  if (low === undefined || high === undefined) return "driven";
  const most = Math.max(Math.abs(low), Math.abs(high));
  const seen = (value: number) => say(Math.abs(value) < HARDLY * most ? 0 : Number(value.toPrecision(2)));
  const range = seen(low) === seen(high) ? seen(low) : `${seen(low)} to ${seen(high)}`;
  return unit ? `${range} ${unit}` : range;
}

/** A number held within a range. */
export const limited = (value: number, low: number, high: number) => Math.min(Math.max(value, low), high);

/** The nearest whole number within a range. */
export const whole = (value: number, low: number, high: number) => limited(Math.round(value), low, high);
