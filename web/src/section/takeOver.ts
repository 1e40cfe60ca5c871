import type { Band, Catalogue } from "../api/client";
import { blankBand, changeMaterial, useDocuments } from "../bench/documents";
import { tell } from "../ui/told";
import { inCompanyOf, withBand } from "./order";

/** Dials that were found or measured, and the kind of band that they are of. */
export interface Found {
  band: string;
  dials: Record<string, unknown>;
}

/** Have the band of a kind take dials over, a new one where there is none; what excludes it and what drove them goes. Whether there was room. */
export function takeOver(catalogue: Catalogue, { band, dials }: Found): boolean {
  const { bands } = useDocuments.getState().material.section;
  const found = dials as Band["dials"];
  const own = bands.find((one) => one.kind === band);
  const next = own
    ? bands.map((one) => (one === own ? { ...one, on: true, dials: { ...one.dials, ...found } } : one))
    : withBand(catalogue, inCompanyOf(catalogue, bands, band), blankBand(band, band, found));
  if (!next) {
    tell("This section has no room for such a band: take what excludes it off first.");
    return false;
  }
  changeMaterial((material) => ({
    ...material,
    section: { ...material.section, bands: next },
    wires: material.wires.filter(({ target }) => target.part !== own?.id || !(target.dial in dials)),
  }));
  return true;
}
