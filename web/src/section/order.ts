/** Where bands may lie, by the rules that each kind declares. */
import { kindOf, rulesOf, splits } from "../api/catalogue";
import type { Band, Catalogue } from "../api/client";

export type Side = Band["side"];

function stackOf(bands: Band[], side: Side): Band[] {
  return bands.filter((band) => band.side === "both" || band.side === side);
}

/** Why bands cannot lie so, or undefined when they can. */
export function whyNotSo(catalogue: Catalogue, bands: Band[]): string | undefined {
  const splitAt = bands.findIndex((band) => splits(catalogue, band));
  const stray = bands.find((band, i) => band.side !== "both" && (splitAt < 0 || i < splitAt));
  if (stray) return "A band of one side lies beneath the split.";
  for (const side of splitAt < 0 ? (["both"] as Side[]) : (["first", "second"] as Side[])) {
    const stack = stackOf(bands, side);
    const counts: Record<string, number> = {};
    for (const [i, band] of stack.entries()) {
      const kind = kindOf(catalogue, "band", band.kind);
      const above = i > 0 ? kindOf(catalogue, "band", stack[i - 1].kind) : undefined;
      counts[band.kind] = (counts[band.kind] ?? 0) + 1;
      if (kind && counts[band.kind] > kind.rules.most)
        return `There can be ${kind.rules.most} of ${kind.title.toLowerCase()} at most.`;
      if (kind && above && kind.rules.rank < above.rules.rank)
        return `${kind.title} cannot lie beneath ${above.title.toLowerCase()}: ${kind.rules.why}.`;
    }
    const alone = stack.find((band) => excludedBy(catalogue, band.kind).some((name) => counts[name]));
    if (alone) return sentence(rulesOf(catalogue, "band", alone.kind)?.why ?? "");
  }
  const apart = bands.find((band) => {
    const excluded = rulesOf(catalogue, "band", band.kind)?.beyond_splits ? excludedBy(catalogue, band.kind) : [];
    return bands.some((other) => excluded.includes(other.kind));
  });
  return apart && sentence(rulesOf(catalogue, "band", apart.kind)?.why ?? "");
}

/** Kinds that cannot be in one stack with a kind. */
function excludedBy(catalogue: Catalogue, kind: string): string[] {
  return rulesOf(catalogue, "band", kind)?.excludes ?? [];
}

const sentence = (words: string) => `${words[0]?.toUpperCase() ?? ""}${words.slice(1)}.`;

/** The bands that can be in one stack with a kind. */
export function inCompanyOf(catalogue: Catalogue, bands: Band[], kind: string): Band[] {
  const excluded = excludedBy(catalogue, kind);
  return bands.filter((band) => !excluded.includes(band.kind) && !excludedBy(catalogue, band.kind).includes(kind));
}

/** The bands with one more, as far out as it may lie; undefined when it may lie nowhere. */
export function withBand(catalogue: Catalogue, bands: Band[], added: Band): Band[] | undefined {
  for (let at = 0; at <= bands.length; at++) {
    const next = [...bands.slice(0, at), added, ...bands.slice(at)];
    if (!whyNotSo(catalogue, next)) return next;
  }
  return undefined;
}

/** The bands with one moved by a place, outwards (-1) or inwards (1). */
export function moved(bands: Band[], id: string, by: number): Band[] {
  const from = bands.findIndex((band) => band.id === id);
  return movedTo(bands, id, by > 0 ? from + 2 : from - 1);
}

/** The bands with one moved to before the band that is now at a place. */
export function movedTo(bands: Band[], id: string, at: number): Band[] {
  const from = bands.findIndex((band) => band.id === id);
  if (at < 0 || at > bands.length || at === from || at === from + 1) return bands;
  const others = bands.filter((band) => band.id !== id);
  const to = at > from ? at - 1 : at;
  return [...others.slice(0, to), bands[from], ...others.slice(to)];
}
