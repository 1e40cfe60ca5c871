import { useEffect, useRef, useState } from "react";
import { useCatalogue } from "../api/catalogue";
import { changeMaterial, freeId, useDocuments } from "../bench/documents";
import { measureNotches } from "../network/notches";
import { BandView } from "./BandView";

/** The material as a cut through the matter, outside at the top. */
export function Section() {
  const bands = useDocuments((s) => s.material.section.bands);
  const form = useDocuments((s) => s.stage.objects[0].form.kind);
  const [shut, setShut] = useState<string[]>([]);
  const root = useRef<HTMLElement>(null);

  useEffect(() => {
    const section = root.current;
    if (!section) return;
    const look = () => measureNotches(section);
    const watch = new ResizeObserver(look);
    watch.observe(section);
    for (const child of section.children) watch.observe(child);
    section.addEventListener("scroll", look);
    window.addEventListener("resize", look);
    const mutations = new MutationObserver(look);
    mutations.observe(section, {
      childList: true,
      subtree: true,
      attributes: true,
      attributeFilter: ["aria-expanded", "style"],
    });
    look();
    return () => {
      watch.disconnect();
      mutations.disconnect();
      section.removeEventListener("scroll", look);
      window.removeEventListener("resize", look);
    };
  }, []);

  const toggle = (id: string) => setShut((old) => (old.includes(id) ? old.filter((one) => one !== id) : [...old, id]));
  return (
    <aside
      ref={root}
      className="flex h-full flex-col overflow-y-auto bg-base-100 pb-24 text-base-content"
      aria-label="Section"
    >
      <Air says="outside: air" />
      {bands.map((band) => (
        <BandView key={band.id} band={band} isOpen={!shut.includes(band.id)} onToggle={() => toggle(band.id)} />
      ))}
      <div className="border-t border-base-content">
        {form === "hollow_float" && <Air says="inside the hollow: air" />}
        <Missing />
      </div>
    </aside>
  );
}

function Air({ says }: { says: string }) {
  return (
    <div className="flex justify-between px-3 py-1 text-[11px] text-[var(--mute)]">
      <span>{says}</span>
      <span className="figures">n 1.000</span>
    </div>
  );
}

const OUTSIDE_IN = ["metal", "interface", "body", "interior"];

/** Bands that the section could have and has not. */
function Missing() {
  const { kinds } = useCatalogue();
  const bands = useDocuments((s) => s.material.section.bands);
  const has = (kind: string) => bands.some((band) => band.kind === kind);
  const missing = kinds.filter(
    (kind) => kind.role === "band" && !has(kind.name) && (kind.name === "metal" ? bands.length === 0 : !has("metal")),
  );
  const order = kinds.filter((kind) => kind.role === "band").map((kind) => kind.name);
  const depth = (kind: string) => OUTSIDE_IN.indexOf(kind) + order.indexOf(kind) / 100;
  const add = (kind: string) =>
    changeMaterial((m) => {
      const band = { id: freeId(m, kind), kind, on: true, dials: {} };
      const sorted = [...m.section.bands, band].sort((x, y) => depth(x.kind) - depth(y.kind));
      return { ...m, section: { ...m.section, bands: sorted } };
    });
  return missing.map((kind) => (
    <button
      type="button"
      key={kind.name}
      className="block w-full border-t border-dashed border-base-300 px-3 py-2 text-left hover:underline"
      onClick={() => add(kind.name)}
    >
      + {kind.title.toLowerCase()}
    </button>
  ));
}
