/** What is chosen on the stage: its path, as "objects.0", "lamps.1", "surround" or "camera". */
import { create } from "zustand";

export const useChosenPart = create<{ path: string; choose: (path: string) => void }>()((set) => ({
  path: "objects.0",
  choose: (path) => set({ path }),
}));
