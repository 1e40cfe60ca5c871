/** Gradients of the catalogue, put on ramps. */
import { dialsOf, kindOf } from "../api/catalogue";
import type { Catalogue, Slip } from "../api/client";

/** The dial of a slip that a gradient can be put on. */
export function gradientDial(catalogue: Catalogue, slip: Slip): string | undefined {
  const kind = kindOf(catalogue, "slip", slip.kind);
  return kind && dialsOf(kind).find((dial) => dial.type === "color_stops")?.name;
}
