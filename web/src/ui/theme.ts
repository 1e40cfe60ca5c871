/** The theme that the page has: for what is drawn in colours read from it. */
import { useSyncExternalStore } from "react";

const root = document.documentElement;

function watch(changed: () => void): () => void {
  const observer = new MutationObserver(changed);
  observer.observe(root, { attributes: true, attributeFilter: ["data-theme"] });
  return () => observer.disconnect();
}

export const useTheme = (): string | undefined => useSyncExternalStore(watch, () => root.dataset.theme);
