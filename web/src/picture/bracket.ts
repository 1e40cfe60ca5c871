/** The values of a bracket: seven across a range. */
import type { DialAbout } from "../api/client";

export const COUNT = 7;

/** Values across a range, even in the dial's own scale. */
export function valuesAcross(about: Pick<DialAbout, "scale">, low: number, high: number, count = COUNT): number[] {
  const log = about.scale === "log" && low > 0;
  return Array.from({ length: count }, (_, i) => {
    const share = count > 1 ? i / (count - 1) : 0;
    const value = log ? low * (high / low) ** share : low + (high - low) * share;
    return Number(value.toPrecision(4));
  });
}

/** The range around one of them, half a step to either side beyond its neighbours' middles. */
export function narrowed(values: number[], at: number): [number, number] {
  return [values[Math.max(at - 1, 0)], values[Math.min(at + 1, values.length - 1)]];
}
