/** What differs between two materials, in words. */
import { dialsOf, dialValue, kindOf } from "../api/catalogue";
import type { Catalogue, DialAbout, Material } from "../api/client";
import { withUnit } from "../ui/numbers";

interface Part {
  id: string;
  kind: string;
  dials: Record<string, unknown>;
}

function words(about: DialAbout, value: unknown): string {
  if (about.type === "number") return withUnit(value as number, about.unit);
  if (about.type === "color") return (value as number[]).map((v) => v.toFixed(2)).join(" ");
  if (about.type === "toggle") return value ? "yes" : "no";
  return Array.isArray(value) ? `${value.length} stops` : String(value);
}

/** "Coat roughness 0.12 → 0.20" and the like. */
export function differences(catalogue: Catalogue, before: Material, after: Material): string[] {
  const found: string[] = [];
  const compare = (role: string, old: Part[], now: Part[]) => {
    const title = (part: Part) => kindOf(catalogue, role, part.kind)?.title ?? part.kind;
    for (const part of now) if (!old.some((one) => one.id === part.id)) found.push(`${title(part)} added`);
    for (const part of old) {
      const other = now.find((one) => one.id === part.id);
      if (!other) {
        found.push(`${title(part)} taken out`);
        continue;
      }
      const kind = kindOf(catalogue, role, part.kind);
      for (const dial of kind ? dialsOf(kind) : []) {
        const [a, b] = [dialValue(part, dial), dialValue(other, dial)];
        if (JSON.stringify(a) !== JSON.stringify(b))
          found.push(`${title(part)} ${dial.label.toLowerCase()} ${words(dial, a)} → ${words(dial, b)}`);
      }
    }
  };
  compare("band", before.section.bands, after.section.bands);
  compare("slip", before.slips, after.slips);
  for (const band of before.section.bands) {
    const other = after.section.bands.find((one) => one.id === band.id);
    if (other && other.on !== band.on) found.push(`${band.kind} ${other.on ? "on" : "off"}`);
  }
  const key = (m: Material) =>
    m.wires.map((w) => `${w.source.slip}.${w.source.port}>${w.target.part}.${w.target.dial}`);
  const [old, now] = [key(before), key(after)];
  const added = now.filter((one) => !old.includes(one)).length;
  const gone = old.filter((one) => !now.includes(one)).length;
  if (added) found.push(`${added} ${added === 1 ? "wire" : "wires"} added`);
  if (gone) found.push(`${gone} ${gone === 1 ? "wire" : "wires"} taken off`);
  return found;
}
