/** What differs between two materials, in words. */
import { dialsOf, dialValue, kindOf } from "../api/catalogue";
import type { Band, Catalogue, DialAbout, Kind, Material, Network, Slip } from "../api/client";
import { slipKind } from "../network/modules";
import { withUnit } from "../ui/numbers";

function words(about: DialAbout, value: unknown): string {
  if (about.type === "number") return withUnit(value as number, about.unit);
  if (about.type === "color") return (value as number[]).map((v) => v.toFixed(2)).join(" ");
  if (about.type === "toggle") return value ? "yes" : "no";
  return Array.isArray(value) ? `${value.length} stops` : String(value);
}

type KindOf<Part> = (part: Part) => Kind | undefined;

function ofParts<Part extends Band | Slip>(before: Part[], after: Part[], kindOf: KindOf<Part>): string[] {
  const title = (part: Part) => ("title" in part ? part.title : part.name) || kindOf(part)?.title || part.kind;
  const added = after.filter((part) => !before.some((one) => one.id === part.id));
  const found = added.map((part) => `${title(part)} added`);
  for (const part of before) {
    const other = after.find((one) => one.id === part.id);
    if (!other) {
      found.push(`${title(part)} taken out`);
      continue;
    }
    const kind = kindOf(part);
    for (const dial of kind ? dialsOf(kind) : []) {
      const [a, b] = [dialValue(part, dial), dialValue(other, dial)];
      if (JSON.stringify(a) !== JSON.stringify(b))
        found.push(`${title(part)} ${dial.label.toLowerCase()} ${words(dial, a)} → ${words(dial, b)}`);
    }
  }
  return found;
}

function ofNetworks(catalogue: Catalogue, modules: Material["modules"], before: Network, after: Network): string[] {
  const found = ofParts(before.slips, after.slips, (slip) => slipKind(catalogue, modules, slip));
  const key = ({ wires }: Network) =>
    wires.map(({ source, target }) => Object.values({ ...source, ...target }).join(" "));
  const [old, now] = [key(before), key(after)];
  const added = now.filter((one) => !old.includes(one)).length;
  const gone = old.filter((one) => !now.includes(one)).length;
  if (added) found.push(`${added} ${added === 1 ? "wire" : "wires"} added`);
  if (gone) found.push(`${gone} ${gone === 1 ? "wire" : "wires"} taken off`);
  return found;
}

/** "Coat roughness 0.12 → 0.20" and the like. */
export function differences(catalogue: Catalogue, before: Material, after: Material): string[] {
  const found = ofParts(before.section.bands, after.section.bands, (band) => kindOf(catalogue, "band", band.kind));
  found.push(...ofNetworks(catalogue, before.modules, before, after));
  for (const module of before.modules) {
    const other = after.modules.find((one) => one.id === module.id);
    const within = other ? ofNetworks(catalogue, before.modules, module, other) : [];
    found.push(...within.map((says) => `in ${module.name}: ${says}`));
  }
  for (const band of before.section.bands) {
    const other = after.section.bands.find((one) => one.id === band.id);
    if (other && other.on !== band.on) found.push(`${band.kind} ${other.on ? "on" : "off"}`);
  }
  return found;
}
