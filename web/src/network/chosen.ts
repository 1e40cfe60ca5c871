/** What is chosen on the network. */
import { create } from "zustand";

interface Pick {
  id: string;
  selected: boolean;
}

interface Chosen {
  slips: string[];
  wires: string[];
  pickSlips: (picks: Pick[]) => void;
  pickWires: (picks: Pick[]) => void;
  only: (slips: string[]) => void;
}

function picked(old: string[], picks: Pick[]): string[] {
  const next = new Set(old);
  for (const { id, selected } of picks) selected ? next.add(id) : next.delete(id);
  return [...next];
}

export const useChosen = create<Chosen>()((set) => ({
  slips: [],
  wires: [],
  pickSlips: (picks) => set((s) => ({ slips: picked(s.slips, picks) })),
  pickWires: (picks) => set((s) => ({ wires: picked(s.wires, picks) })),
  only: (slips) => set({ slips, wires: [] }),
}));
