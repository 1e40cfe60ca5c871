import { useQuery } from "@tanstack/react-query";
import { api, type Substance } from "../api/client";
import { blankBand, changeBands, changeMaterial, useDocuments } from "../bench/documents";

/** Measured matter, as the core has it. */
export function useSubstances(): Substance[] {
  const { data = [] } = useQuery({
    queryKey: ["substances"],
    queryFn: async () => ((await api.GET("/api/substances")).data ?? []) as Substance[],
    staleTime: Number.POSITIVE_INFINITY,
  });
  return data;
}

/** A metal takes the place of the boundary; clear matter goes into the interface, and into the interior when it absorbs. */
export function putOnBench(substance: Substance): string {
  const { material } = useDocuments.getState();
  const bands = material.section.bands;
  if (substance.family === "metal") {
    const above = bands.filter((band) => ["fuzz", "film", "coat"].includes(band.kind) && band.side === "both");
    changeBands(() => [...above, blankBand("metal", "metal", { substance: substance.name })]);
    return `The section is now ${substance.title.toLowerCase()}; undo brings the old one back.`;
  }
  const rest = bands.filter((band) => band.kind !== "metal");
  const old = rest.find((band) => band.kind === "interface");
  const dials = { ...old?.dials, substance: substance.name, transmission_dispersion_scale: 1 };
  const face = { ...(old ?? blankBand("interface", "interface")), dials };
  const wires = material.wires.filter((wire) => !(wire.target.part === face.id && wire.target.dial === "specular_ior"));
  changeMaterial((m) => ({
    ...m,
    wires,
    section: { ...m.section, bands: old ? rest.map((band) => (band === old ? face : band)) : [face, ...rest] },
  }));
  return `${substance.title} is in the interface, with its true dispersion.`;
}
