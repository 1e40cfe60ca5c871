/** How wide the panes of the bench are: as they were left, apart for a network in use, an empty one, and a picture that fills the place. */
import type { GroupImperativeHandle, Layout } from "react-resizable-panels";

export type Arrangement = "wired" | "bare" | "filled";

const USUAL: Record<Arrangement, Layout> = {
  wired: { "pane-picture": 34, "pane-network": 44, "pane-section": 22 },
  bare: { "pane-picture": 50, "pane-network": 26, "pane-section": 24 },
  filled: { "pane-picture": 76, "pane-network": 0, "pane-section": 24 },
};

const key = (name: Arrangement) => `panes:${name}`;

function panesOf(name: Arrangement): Layout {
  try {
    return { ...USUAL[name], ...JSON.parse(localStorage.getItem(key(name)) ?? "{}") };
  } catch {
    return USUAL[name];
  }
}

/** Lay the panes out as they were left. On the way between places not all of them are there. */
export function arrange(group: GroupImperativeHandle, name: Arrangement): void {
  const layout = panesOf(name);
  const there = Object.keys(group.getLayout());
  if (there.length === Object.keys(layout).length && there.every((pane) => pane in layout)) group.setLayout(layout);
}

/** Keep what was dragged. */
export function keepPanes(name: Arrangement, layout: Layout): void {
  if (Object.keys(USUAL[name]).every((pane) => pane in layout)) localStorage.setItem(key(name), JSON.stringify(layout));
}
