/** The swatches that matter is looked for of: thin, thick, and, where it scatters, lit through. */
import { create } from "zustand";
import type { Rgb } from "../api/client";

export interface Swatch {
  color: Rgb;
  depth: number;
}

export const ROLES = ["thin", "thick", "through"] as const;
export type Role = (typeof ROLES)[number];

interface Swatches {
  swatches: Record<Role, Swatch>;
  scatters: boolean;
  /** Of refraction, of matter that scatters. */
  index: number;
  /** What lies behind its slabs that are lit from before. */
  ground: "dark" | "white";
}

export const useSwatches = create<Swatches>()(() => ({
  swatches: {
    thin: { color: [0.96, 0.74, 0.49], depth: 0.5 },
    thick: { color: [0.52, 0.1, 0.0], depth: 4 },
    through: { color: [0.55, 0.16, 0.05], depth: 1 },
  },
  scatters: false,
  index: 1.45,
  ground: "dark",
}));

export const changeSwatch = (role: Role, about: Partial<Swatch>) =>
  useSwatches.setState(({ swatches }) => ({ swatches: { ...swatches, [role]: { ...swatches[role], ...about } } }));
