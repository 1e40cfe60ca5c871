import { useQuery } from "@tanstack/react-query";
import { dialsOf } from "../api/catalogue";
import { api, type Band, type Catalogue, type Scatterer, type Substance, type Wire } from "../api/client";
import { blankBand, changeMaterial, useDocuments } from "../bench/documents";
import { inCompanyOf, withBand } from "../section/order";

export type Measured = Substance | Scatterer;

/** What the core has measured, asked for once. */
function useMeasured<T extends Measured>(path: "/api/substances" | "/api/scatterers"): T[] {
  const { data = [] } = useQuery({
    queryKey: [path],
    queryFn: async () => ((await api.GET(path)).data ?? []) as T[],
    staleTime: Number.POSITIVE_INFINITY,
  });
  return data;
}

/** Measured matter, as the core has it. */
export const useSubstances = () => useMeasured<Substance>("/api/substances");

/** Measured matter that scatters light, what scatters least first. */
export const useScatterers = () => useMeasured<Scatterer>("/api/scatterers");

/** Puts measured matter into the first band that takes it, beside what can be there with it; wires into what it replaces are taken off. */
export function putOnBench(substance: Measured, catalogue: Catalogue): string {
  const { material } = useDocuments.getState();
  const [taker] = catalogue.kinds.flatMap((kind) => {
    const dial = kind.role === "band" && dialsOf(kind).find((one) => one.choices?.includes(substance.name));
    return dial ? [{ kind, dial }] : [];
  });
  if (!taker) return `No band takes ${substance.title}.`;
  const { kind, dial } = taker;
  const set = { [dial.name]: substance.name, ...dial.brings };
  const company = inCompanyOf(catalogue, material.section.bands, kind.name);
  const old = company.find((band) => band.kind === kind.name);
  const band: Band = old ? { ...old, dials: { ...old.dials, ...set } } : blankBand(kind.name, kind.name, set);
  const bands = old ? company.map((one) => (one === old ? band : one)) : withBand(catalogue, company, band);
  const lost = dialsOf(kind).filter((one) => one.when?.[0] === dial.name && one.when[1] !== substance.name);
  const isLost = (wire: Wire) => wire.target.part === band.id && lost.some((one) => one.name === wire.target.dial);
  const isGone = (wire: Wire) =>
    material.section.bands.some((one) => one.id === wire.target.part) &&
    !bands?.some((one) => one.id === wire.target.part);
  changeMaterial((m) => ({
    ...m,
    wires: m.wires.filter((wire) => !isLost(wire) && !isGone(wire)),
    section: { ...m.section, bands: bands ?? m.section.bands },
  }));
  return `${substance.title} is in the ${kind.title.toLowerCase()} now; undo brings the old one back.`;
}
