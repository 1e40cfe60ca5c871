/** Stops of ramps and curves: how they are joined, as lines and as colours. */
import type { ColorStop, DialAbout, Stop } from "../api/client";
import { toHex } from "./colors";
import type { Point } from "./PointsPaper";

const JOINS = ["linear", "smooth", "step", "through"] as const;
export type Join = (typeof JOINS)[number];

/** How the stops of a dial are joined: as another choice of its slip says, or as the dial always does. */
export function joinOf(about: DialAbout, dials: Record<string, unknown>, among: DialAbout[]): Join {
  const choice = among.find((one) => one.name === about.joined);
  const word = choice ? (dials[choice.name] ?? choice.default) : about.joined;
  return JOINS.find((one) => one === word) ?? "linear";
}

/** Slopes at the points of a line that rises and falls only where they do. Source: Fritsch & Carlson 1980. */
function slopes(points: Point[]): number[] {
  const steps = points.slice(1).map(([x, y], i) => (y - points[i][1]) / Math.max(x - points[i][0], 1e-9));
  const inner = steps.slice(1).map((q, i) => (steps[i] * q <= 0 ? 0 : (2 * steps[i] * q) / (steps[i] + q)));
  return [steps[0], ...inner, steps[steps.length - 1]];
}

/** The line through the points as an SVG path; level beyond the first and the last. */
export function pathThrough(
  points: Point[],
  join: Join,
  x: (value: number) => number,
  y: (value: number) => number,
): string {
  const steep = join === "through" ? slopes(points) : points.map(() => 0);
  const to = points.slice(1).map(([b, value], i) => {
    const [a, before] = points[i];
    if (join === "step") return `H${x(b)} V${y(value)}`;
    if (join === "linear") return `L${x(b)},${y(value)}`;
    const third = (b - a) / 3;
    const bend = [x(a + third), y(before + steep[i] * third), x(b - third), y(value - steep[i + 1] * third)];
    return `C${bend.join(",")},${x(b)},${y(value)}`;
  });
  const [first, last] = [points[0], points[points.length - 1]];
  return `M${x(0)},${y(first[1])} H${x(first[0])} ${to.join(" ")} H${x(Math.max(1, last[0]))}`;
}

export const isColor = (stop: Stop): stop is ColorStop => Array.isArray(stop[1]);
export const paint = (stop: Stop) => toHex(isColor(stop) ? stop[1] : [stop[1], stop[1], stop[1]]);

const BETWEEN = [0.25, 0.5, 0.75];

/** The stops as a gradient from left to right. */
export function gradientOf(stops: Stop[], join: Join = "linear"): string {
  const shown = stops.flatMap((stop, i) => {
    const before = stops[i - 1];
    if (!before || join === "linear" || !isColor(stop) || !isColor(before)) return [`${paint(stop)} ${stop[0] * 100}%`];
    if (join === "step") return [`${paint(before)} ${stop[0] * 100}%`, `${paint(stop)} ${stop[0] * 100}%`];
    const mixed = BETWEEN.map((t) => {
      const share = t * t * (3 - 2 * t);
      const rgb = stop[1].map((v, k) => before[1][k] + (v - before[1][k]) * share);
      return `${toHex(rgb)} ${(before[0] + (stop[0] - before[0]) * t) * 100}%`;
    });
    return [...mixed, `${paint(stop)} ${stop[0] * 100}%`];
  });
  return `linear-gradient(90deg, ${shown.join(", ")})`;
}

/** The range of values that a paper of stops shows: 0 to 1, and what runs past it. */
export function reachOf(stops: Point[]): { low: number; high: number } {
  const values = stops.map((stop) => stop[1]);
  return { low: Math.min(0, ...values), high: Math.max(1, ...values) };
}
