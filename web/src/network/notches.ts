/** Where the section's notches are on the screen, so that wires can end there. */
import { create } from "zustand";

interface Notches {
  /** Height on the screen by 'band.dial'. */
  tops: Record<string, number>;
}

export const useNotches = create<Notches>()(() => ({ tops: {} }));

/** Look where the notches of a section are now. */
export function measureNotches(section: HTMLElement): void {
  const tops: Record<string, number> = {};
  for (const notch of section.querySelectorAll<HTMLElement>("[data-notch]")) {
    const box = notch.getBoundingClientRect();
    tops[notch.dataset.notch ?? ""] = box.top + box.height / 2;
  }
  const old = useNotches.getState().tops;
  const same =
    Object.keys(tops).length === Object.keys(old).length && Object.entries(tops).every(([k, v]) => old[k] === v);
  if (!same) useNotches.setState({ tops });
}
