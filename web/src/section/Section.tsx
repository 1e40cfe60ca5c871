import { Fragment, useRef, useState } from "react";
import { splits, useCatalogue, useKind } from "../api/catalogue";
import type { Band, Catalogue, Kind } from "../api/client";
import { blankBand, changeBands, changeMaterial, useDocuments } from "../bench/documents";
import { keepSection, putPreset, usePresets } from "../library/presets";
import { useNotchesIn } from "../network/notches";
import { freeId } from "../network/paper";
import { onF2, Rename } from "../ui/Rename";
import { BandView } from "./BandView";
import { type Carried, useCarrying } from "./carrying";
import { inCompanyOf, type Side, withBand } from "./order";

/** The material as a cut through the matter, outside at the top. */
export function Section() {
  const bands = useDocuments((s) => s.material.section.bands);
  const form = useKind(
    "form",
    useDocuments((s) => s.stage.objects[0].form.kind),
  );
  const [shut, setShut] = useState<string[]>([]);
  const root = useRef<HTMLElement>(null);

  const { carried, carry } = useCarrying(root, bands);
  useNotchesIn(root);
  const toggle = (id: string) => setShut((old) => (old.includes(id) ? old.filter((one) => one !== id) : [...old, id]));
  return (
    <aside
      ref={root}
      className="flex h-full flex-col overflow-y-auto bg-base-100 pb-24 text-base-content"
      aria-label="Section"
    >
      <MaterialName />
      <Air says="outside: air" />
      {bands.map((band, i) => (
        <Fragment key={band.id}>
          {carried?.at === i && <Landing carried={carried} />}
          <BandView
            band={band}
            isOpen={!shut.includes(band.id)}
            isCarried={carried?.id === band.id}
            onToggle={() => toggle(band.id)}
            onCarry={carry(band.id)}
          />
        </Fragment>
      ))}
      {carried?.at === bands.length && <Landing carried={carried} />}
      <div className="border-t border-base-content">
        {form?.rules.hollow && <Air says={form.rules.hollow} />}
        <Missing />
        <Kept />
      </div>
    </aside>
  );
}

/** What the material is called; what is typed here is in the list of materials once it is saved. */
function MaterialName() {
  const name = useDocuments((s) => s.material.name);
  return (
    <div className="px-3 pt-1.5">
      <Rename
        name={name}
        label="Name of this material"
        className="w-full font-semibold"
        onRename={(next) => next && changeMaterial((m) => ({ ...m, name: next }))}
      >
        {(begin) => (
          <button
            type="button"
            className="block w-full truncate text-left font-semibold"
            title="Double click to rename this material"
            onDoubleClick={begin}
            onKeyDown={onF2(begin)}
          >
            {name}
          </button>
        )}
      </Rename>
    </div>
  );
}

/** Where a carried band would lie, or why it cannot. */
function Landing({ carried: { reason, pointer } }: { carried: Carried }) {
  return (
    <div className={`h-1 ${reason ? "bg-base-300" : "bg-marker"}`}>
      {reason && (
        <p
          role="alert"
          className="fixed z-50 max-w-56 border border-base-content bg-base-100 px-2 py-1"
          style={{ right: `calc(100vw - ${pointer.x - 12}px)`, top: pointer.y + 8 }}
        >
          {reason}
        </p>
      )}
    </div>
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

/** Bands that may be added to the section as it is, wherever they fit first. */
export function offers(catalogue: Catalogue): { kind: Kind; add: () => void }[] {
  const { material } = useDocuments.getState();
  return catalogue.kinds
    .filter((kind) => kind.role === "band")
    .map((kind) => ({
      kind,
      next: withBand(catalogue, material.section.bands, blankBand(freeId(material, kind.name), kind.name)),
    }))
    .flatMap(({ kind, next }) => (next ? [{ kind, add: () => changeBands(() => next) }] : []));
}

/** The presets that are kept, and this section as another. */
function Kept() {
  const catalogue = useCatalogue();
  const presets = usePresets();
  return (
    <div className="px-3 pb-2" role="group" aria-label="Presets">
      <p className="mb-1 flex items-baseline gap-3 text-[11px] text-[var(--mute)]">
        presets
        <button
          type="button"
          className="ml-auto hover:underline"
          title="Keep this whole section and its network as a preset"
          onClick={() => keepSection()}
        >
          keep all
        </button>
      </p>
      <div className="flex flex-wrap gap-x-3 gap-y-0.5">
        {presets.map((one) => (
          <button
            type="button"
            key={one.id}
            className="py-0.5 text-left hover:underline"
            title={one.is_whole ? "In place of this section; undo goes back" : "Put where it may lie"}
            onClick={() => putPreset(catalogue, one)}
          >
            {one.is_whole ? "" : "+ "}
            {one.name}
            {one.is_whole && <span className="text-[var(--mute)]"> instead</span>}
          </button>
        ))}
      </div>
    </div>
  );
}

/** Bands that the section could have besides those it has. */
function Missing() {
  const catalogue = useCatalogue();
  const bands = useDocuments((s) => s.material.section.bands);
  const isSplit = bands.some((band) => splits(catalogue, band));
  const blank = (kind: string, side: Side): Band => ({
    ...blankBand(freeId(useDocuments.getState().material, kind), kind),
    side,
  });
  const offers = catalogue.kinds
    .filter((kind) => kind.role === "band")
    .flatMap((kind) =>
      (isSplit ? (["both", "first", "second"] as Side[]) : (["both"] as Side[])).map((side) => ({ kind, side })),
    )
    .filter(({ kind, side }) => withBand(catalogue, bands, blank(kind.name, side)));
  const instead = catalogue.kinds.filter(
    (kind) => kind.role === "band" && kind.rules.excludes?.length && !bands.some((band) => band.kind === kind.name),
  );
  return (
    <div className="px-3 py-2" role="group" aria-label="Add a band">
      <p className="mb-1 text-[11px] text-[var(--mute)]">add a band</p>
      <div className="flex flex-wrap gap-x-3 gap-y-0.5">
        {offers.map(({ kind, side }) => (
          <button
            type="button"
            key={kind.name + side}
            className="py-0.5 hover:underline"
            title={kind.help}
            onClick={() => changeBands((old) => withBand(catalogue, old, blank(kind.name, side)) ?? old)}
          >
            + {kind.title.toLowerCase()}
            {side !== "both" && <span className="text-[var(--mute)]"> {side}</span>}
          </button>
        ))}
        {instead
          .filter((kind) => !isSplit && !offers.some((offer) => offer.kind === kind))
          .map((kind) => (
            <button
              type="button"
              key={kind.name}
              className="py-0.5 hover:underline"
              title={`${kind.help} It takes the place of what cannot be there with it.`}
              onClick={() =>
                changeBands((old) => {
                  const company = inCompanyOf(catalogue, old, kind.name);
                  return withBand(catalogue, company, blank(kind.name, "both")) ?? old;
                })
              }
            >
              + {kind.title.toLowerCase()} instead
            </button>
          ))}
      </div>
    </div>
  );
}
