/** What materials are sought by. */
import type { MaterialLine } from "../api/client";

/** "greenish" seeks green, "reddish" red. */
const stem = (word: string) => word.replace(/(d?dish|ish)$/, (end) => (end === "ddish" ? "d" : ""));

/** Whether every word is found in the name, the family, what it is made of, its colour or its tags. */
export function isSought(one: MaterialLine, sought: string): boolean {
  const known = [one.name, one.family, ...one.made_of, ...one.color, ...one.tags].join(" ").toLowerCase();
  return sought
    .toLowerCase()
    .split(/[\s,;]+/)
    .filter(Boolean)
    .every((word) => known.includes(word) || known.includes(stem(word)));
}

/** The families of which there is something, in the order of the trade. */
export function familiesOf(families: string[], all: MaterialLine[]): string[] {
  return families.filter((family) => all.some((one) => one.family === family));
}

/** Those that are of the same matter as another, beside each other. */
export function alike(all: MaterialLine[]): MaterialLine[] {
  const count = (likeness: string) => all.filter((one) => one.likeness === likeness).length;
  return all
    .filter((one) => one.likeness && count(one.likeness) > 1)
    .sort((a, b) => a.likeness.localeCompare(b.likeness));
}
