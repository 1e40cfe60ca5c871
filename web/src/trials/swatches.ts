/** The swatches that matter is looked for of: thin, thick, and, where it scatters, lit through. */
import { create } from "zustand";
import type { Rgb } from "../api/client";

export interface Swatch {
  color: Rgb;
  depth: number;
}

const ROLES = ["thin", "thick", "through"] as const;
const CLEAR = ROLES.slice(0, 2);
export type Role = (typeof ROLES)[number];

interface Swatches {
  swatches: Record<Role, Swatch>;
  /** Those of matter that scatters while it does not, and the other way round. */
  others: Record<Role, Swatch>;
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
    through: { color: [0.52, 0.1, 0.0], depth: 1 },
  },
  others: {
    thin: { color: [0.381, 0.364, 0.261], depth: 0.1 },
    thick: { color: [0.657, 0.461, 0.261], depth: 2 },
    through: { color: [0.227, 0.071, 0.0], depth: 0.5 },
  },
  scatters: false,
  index: 1.45,
  ground: "dark",
}));

/** Those that are looked at: the third is of matter that scatters alone. */
export const useRoles = (): readonly Role[] => useSwatches((s) => (s.scatters ? ROLES : CLEAR));

/** Look for matter that scatters, or for clear matter; each keeps its own swatches. */
export const setScatters = (scatters: boolean) =>
  useSwatches.setState(({ swatches, others }) => ({ scatters, swatches: others, others: swatches }));

export const changeSwatch = (role: Role, about: Partial<Swatch>) =>
  useSwatches.setState(({ swatches }) => ({ swatches: { ...swatches, [role]: { ...swatches[role], ...about } } }));
