/** The two swatches that an absorption is looked for of. */
import { create } from "zustand";
import type { Rgb } from "../api/client";

export interface Swatch {
  color: Rgb;
  depth: number;
}

const THIN: Swatch = { color: [0.96, 0.74, 0.49], depth: 0.5 };
const THICK: Swatch = { color: [0.52, 0.1, 0.0], depth: 4 };

export const useSwatches = create<{ swatches: [Swatch, Swatch] }>()(() => ({ swatches: [THIN, THICK] }));

export const changeSwatch = (i: number, about: Partial<Swatch>) =>
  useSwatches.setState(({ swatches }) => ({
    swatches: swatches.map((one, k) => (k === i ? { ...one, ...about } : one)) as [Swatch, Swatch],
  }));
