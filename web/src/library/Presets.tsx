import { kindOf, useCatalogue } from "../api/catalogue";
import type { KeptPreset } from "../api/client";
import { putPreset, removePreset, usePresets } from "./presets";
import { Shelf } from "./Shelf";

/** The presets that are kept: what each is of; put on the bench with one click. */
export function Presets({ onBench }: { onBench: () => void }) {
  const catalogue = useCatalogue();
  const kept = usePresets();
  const put = (one: KeptPreset) => {
    putPreset(catalogue, one);
    onBench();
  };
  return (
    <Shelf title="Presets" placeholder="seek by name" all={kept} words={(one) => one.name} className="px-3">
      {(shown) => (
        <>
          {shown.map((one) => (
            <li key={one.id} className="flex items-baseline gap-3 border-b border-base-200 py-2">
              <h3 className="font-semibold">{one.name}</h3>
              <span className="text-[var(--mute)]">
                {one.is_whole ? "a section: " : "a band: "}
                {one.document.section.bands
                  .map((band) => (kindOf(catalogue, "band", band.kind)?.title ?? band.kind).toLowerCase())
                  .join(", ")}
                {one.document.slips?.length ? `; ${one.document.slips.length} slips` : ""}
              </span>
              <button type="button" className="ml-auto hover:underline" onClick={() => removePreset(one)}>
                remove
              </button>
              <button type="button" className="btn btn-xs bg-marker text-[#1d1d1d]" onClick={() => put(one)}>
                {one.is_whole ? "Put in place of the section" : "Put into the section"}
              </button>
            </li>
          ))}
          {kept.length === 0 && (
            <li className="py-3">
              Nothing is kept yet. On the bench, an open band has <i>keep</i> at its foot, and the section{" "}
              <i>keep all</i>.
            </li>
          )}
        </>
      )}
    </Shelf>
  );
}
