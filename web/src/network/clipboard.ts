/** Slips as text: copied, pasted into this or another material, and laid out. */
import type { Slip, Wire } from "../api/client";
import { addCopies, moveSlips, useDocuments } from "../bench/documents";
import { useChosen } from "./chosen";

interface Copied {
  format: "nineglass.slips";
  version: 1;
  slips: Slip[];
  wires: Wire[];
}

let kept = "";

/** Copy the chosen slips with the wires between them, as text. */
export function copySlips(): void {
  const { material } = useDocuments.getState();
  const ids = new Set(useChosen.getState().slips);
  if (!ids.size || window.getSelection()?.toString()) return;
  const copied: Copied = {
    format: "nineglass.slips",
    version: 1,
    slips: material.slips.filter((slip) => ids.has(slip.id)),
    wires: material.wires.filter((wire) => ids.has(wire.source.slip) && ids.has(wire.target.part)),
  };
  kept = JSON.stringify(copied, null, 1);
  navigator.clipboard?.writeText(kept).catch(() => undefined);
}

function read(text: string): Copied | undefined {
  try {
    const given = JSON.parse(text) as Copied;
    return given.format === "nineglass.slips" && Array.isArray(given.slips) ? given : undefined;
  } catch {
    return undefined;
  }
}

/** Paste slips that were copied here, in another material, or as text. */
export async function pasteSlips(): Promise<void> {
  const outside = await navigator.clipboard?.readText().catch(() => "");
  const given = read(outside ?? "") ?? read(kept);
  if (!given) return;
  useChosen.getState().only(addCopies(given.slips, given.wires));
}

const COLUMN = 230;
const ROW = 150;

/** Lay the slips out from left to right, each left of what it drives. */
export function layOut(): void {
  const { slips, wires } = useDocuments.getState().material;
  const depth = new Map<string, number>();
  const depthOf = (id: string): number => {
    if (!depth.has(id)) {
      depth.set(id, 0);
      const driven = wires.filter((wire) => wire.source.slip === id).map((wire) => wire.target.part);
      const inNetwork = driven.filter((part) => slips.some((slip) => slip.id === part));
      depth.set(id, inNetwork.length ? 1 + Math.max(...inNetwork.map(depthOf)) : 0);
    }
    return depth.get(id) ?? 0;
  };
  const deepest = Math.max(0, ...slips.map((slip) => depthOf(slip.id)));
  const rows: Record<number, number> = {};
  const places = slips.map((slip) => {
    const column = deepest - depthOf(slip.id);
    rows[column] = (rows[column] ?? -1) + 1;
    return [slip.id, { x: column * COLUMN, y: rows[column] * ROW }] as const;
  });
  moveSlips(Object.fromEntries(places));
}
