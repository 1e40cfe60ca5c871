/** Slips and bands as text: copied, pasted into this or another material, and laid out. */
import type { Band, Catalogue } from "../api/client";
import { changeBands, inOneStep, useDocuments } from "../bench/documents";
import { withBand } from "../section/order";
import { tell } from "../ui/told";
import { useChosen } from "./chosen";
import { addCopies, driversOf, freeId, movePieces, openNetwork, type Pieces, piecesOf } from "./paper";

interface Copied extends Pieces {
  format: "nineglass.slips";
  version: 2;
  bands: Band[];
}

let kept = "";

function keep(pieces: Pieces, bands: Band[]): void {
  const copied: Copied = { format: "nineglass.slips", version: 2, ...pieces, bands };
  kept = JSON.stringify(copied, null, 1);
  navigator.clipboard?.writeText(kept).catch(() => undefined);
}

/** Copy the chosen slips with the wires between them, as text. */
export function copySlips(): void {
  const ids = useChosen.getState().slips;
  if (ids.length && !window.getSelection()?.toString()) keep(piecesOf(ids), []);
}

/** Copy a band with the slips that drive it, as text. */
export function copyBand(band: Band): void {
  useDocuments.setState({ inside: [] });
  keep(piecesOf(driversOf(useDocuments.getState().material, band.id), band.id), [band]);
  tell(`${band.name || band.kind} and what drives it are copied; Ctrl V puts them into this or another material.`);
}

function read(text: string): Copied | undefined {
  try {
    const given = JSON.parse(text) as Copied;
    const isOurs = given.format === "nineglass.slips" && Array.isArray(given.slips) && Array.isArray(given.wires);
    return isOurs
      ? { ...given, mounts: given.mounts ?? [], modules: given.modules ?? [], bands: given.bands ?? [] }
      : undefined;
  } catch {
    return undefined;
  }
}

/** Paste what was copied here, in another material, or as text. */
export async function paste(catalogue: Catalogue): Promise<void> {
  const outside = await navigator.clipboard?.readText().catch(() => "");
  const given = read(outside ?? "") ?? read(kept);
  if (!given) return;
  useChosen.getState().only(inOneStep(() => putIn(catalogue, given)));
}

/** Put copies of slips and bands into this material; gives the new ids. */
export function putIn(catalogue: Catalogue, given: Pieces & { bands: Band[] }): string[] {
  return addCopies(given, pasteBands(catalogue, given.bands));
}

/** Put copied bands where they may lie; gives their new ids by the old. */
function pasteBands(catalogue: Catalogue, bands: Band[]): Record<string, string> {
  const names: Record<string, string> = {};
  if (bands.length) useDocuments.setState({ inside: [] });
  for (const band of bands) {
    const { material } = useDocuments.getState();
    const id = freeId(material, band.kind);
    const now = material.section.bands;
    const next =
      withBand(catalogue, now, { ...band, id }) ?? withBand(catalogue, now, { ...band, id, side: "both" as const });
    if (!next) tell(`There is no place for ${band.name || band.kind} in this section; take out what is in its way.`);
    else {
      names[band.id] = id;
      changeBands(() => next);
    }
  }
  return names;
}

const COLUMN = 230;
const ROW = 150;

/** Lay the slips out from left to right, each left of what it drives. */
export function layOut(): void {
  const { slips, wires } = openNetwork(useDocuments.getState());
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
  movePieces(Object.fromEntries(places));
}
