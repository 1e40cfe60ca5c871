/** Where the section's notches are on the screen, so that wires can end there. */
import { type RefObject, useEffect } from "react";
import { create } from "zustand";

interface Notches {
  /** Height on the screen by 'band.dial'. */
  tops: Record<string, number>;
}

export const useNotches = create<Notches>()(() => ({ tops: {} }));

/** Keep knowing where the notches within an element are. */
export function useNotchesIn(root: RefObject<HTMLElement | null>): void {
  useEffect(() => {
    const section = root.current;
    if (!section) return;
    const look = () => measureNotches(section);
    const watch = new ResizeObserver(look);
    watch.observe(section);
    for (const child of section.children) watch.observe(child);
    section.addEventListener("scroll", look);
    window.addEventListener("resize", look);
    const mutations = new MutationObserver(look);
    mutations.observe(section, {
      childList: true,
      subtree: true,
      attributes: true,
      attributeFilter: ["aria-expanded", "style"],
    });
    look();
    return () => {
      watch.disconnect();
      mutations.disconnect();
      section.removeEventListener("scroll", look);
      window.removeEventListener("resize", look);
    };
  }, [root]);
}

function measureNotches(section: HTMLElement): void {
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
