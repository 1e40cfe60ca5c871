import { useQuery } from "@tanstack/react-query";
import { api, type Catalogue, type DialAbout, type DialValue, type Kind, type PortType } from "./client";

const LOADING = {
  kinds: [],
  conversions: [],
  gradients: [],
  views: [],
  shapes: [],
  stops: [],
  families: [],
  channels: [],
} as unknown as Catalogue;

let loaded = LOADING;

/** The catalogue outside a component; it is there before a material is. */
export const catalogueNow = (): Catalogue => loaded;

export function useCatalogue(): Catalogue {
  const { data } = useQuery({
    queryKey: ["catalogue"],
    queryFn: async () => {
      loaded = (await api.GET("/api/catalogue")).data as Catalogue;
      return loaded;
    },
    staleTime: Number.POSITIVE_INFINITY,
  });
  return data ?? LOADING;
}

/** What a kind says beside its dials. */
export function rulesOf(catalogue: Catalogue, role: string, name: string): Kind["rules"] | undefined {
  return kindOf(catalogue, role, name)?.rules;
}

/** Whether a band divides what lies beneath it. */
export function splits(catalogue: Catalogue, band: { kind: string }): boolean {
  return !!rulesOf(catalogue, "band", band.kind)?.splits;
}

/** Of the objects of a stage those that are no strands, which grow on one of them. */
export function skinsOf<Grown extends { form: { kind: string } }>(catalogue: Catalogue, objects: Grown[]): Grown[] {
  return objects.filter((one) => !rulesOf(catalogue, "form", one.form.kind)?.grows);
}

export function kindOf(catalogue: Catalogue, role: string, name: string): Kind | undefined {
  return catalogue.kinds.find((kind) => kind.role === role && kind.name === name);
}

export function useKind(role: string, name: string): Kind | undefined {
  return kindOf(useCatalogue(), role, name);
}

export function dialsOf(kind: Kind): DialAbout[] {
  return kind.dials as DialAbout[];
}

/** The type of port that a dial takes, or undefined when it cannot be driven. */
export function takes(dial: DialAbout): PortType | undefined {
  if (!dial.drivable) return undefined;
  return dial.type === "number" || dial.type === "color" || dial.type === "vector" ? dial.type : undefined;
}

export function dialValue(part: { dials: Record<string, unknown> }, dial: DialAbout): DialValue {
  return (part.dials[dial.name] ?? dial.default) as DialValue;
}

/** Dials that have an effect as the part is set now, and as its dials are driven. */
export function effective(
  dials: DialAbout[],
  part: { dials: Record<string, unknown> },
  isDriven: (dial: string) => boolean = () => false,
): DialAbout[] {
  const hasEffect = (dial: DialAbout): boolean => {
    const [name, wanted] = dial.when ?? [];
    const other = dials.find((one) => one.name === name);
    return !other || (dialValue(part, other) === wanted && hasEffect(other));
  };
  return dials.filter((dial) => {
    const beside = dials.find((one) => one.name === dial.beside);
    const isFolded = beside && dialValue(part, beside) === beside.default && !isDriven(beside.name);
    return hasEffect(dial) && (!isFolded || isDriven(dial.name));
  });
}
