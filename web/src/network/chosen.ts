/** What is chosen on the network. */
import { create } from "zustand";

interface Pick {
  id: string;
  selected: boolean;
}

/** A port that the next slip is to be wired to: what a dial takes, or what a slip gives; and where it was dropped. */
export interface Port {
  side: "takes" | "gives";
  part: string;
  name: string;
  at?: { x: number; y: number };
}

interface Chosen {
  port?: Port;
  finding: boolean;
  /** Look for something by typing; with a port, for what can be wired to it. */
  find: (port?: Port) => void;
  found: () => void;
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
  finding: false,
  find: (port) => set({ port, finding: true }),
  found: () => set({ port: undefined, finding: false }),
  only: (slips) => set({ slips, wires: [] }),
}));
