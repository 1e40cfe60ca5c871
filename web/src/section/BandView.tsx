import { ArrowDown, ArrowUp, ChevronDown, ChevronRight } from "lucide-react";
import { dialsOf, dialValue, effective, splits, takes, useCatalogue, useKind } from "../api/catalogue";
import type { Band, DialAbout } from "../api/client";
import { changeBands, removeBand, switchBand, useDocuments } from "../bench/documents";
import { useLive } from "../bench/live";
import { keepBand } from "../library/presets";
import { copyBand } from "../network/clipboard";
import { driverOf } from "../network/drivers";
import { usePaper } from "../network/ports";
import { Dial } from "../ui/Dial";
import { onF2, Rename } from "../ui/Rename";
import { CUTS } from "./cuts";
import { Notch } from "./Notch";
import { moved, type Side, whyNotSo } from "./order";

interface BandViewProps {
  band: Band;
  isOpen: boolean;
  isCarried: boolean;
  onToggle: () => void;
  /** The pointer is pressed on its cut. */
  onCarry: (event: React.PointerEvent<HTMLElement>) => void;
}

const change = (id: string, values: Partial<Band>) =>
  changeBands((bands) => bands.map((one) => (one.id === id ? { ...one, ...values } : one)));

/** One layer of the section: its cut, and its dials when it is open. */
export function BandView({ band, isOpen, isCarried, onToggle, onCarry }: BandViewProps) {
  const about = useKind("band", band.kind);
  const section = useLive((s) => s.reading?.section);
  const bands = useDocuments((s) => s.material.section.bands);
  const catalogue = useCatalogue();
  const wires = useDocuments((s) => s.material.wires);
  const isDriven = (dial: string) => wires.some(({ target }) => target.part === band.id && target.dial === dial);
  if (!about) return null;
  const Cut = CUTS[about.rules.cut?.style ?? "boundary"];
  const cut = section?.bands[band.id];
  const title = band.name || about.title;
  const isSplit = bands.some((one) => splits(catalogue, one));
  return (
    <section
      className={`border-t border-base-content ${isCarried ? "opacity-50" : ""}`}
      aria-label={title}
      data-band={band.id}
    >
      <div
        className={`cursor-grab touch-none active:cursor-grabbing ${band.on ? "" : "opacity-30"} ${SIDES[band.side]}`}
        title="Drag it outwards or inwards"
        data-testid={`cut-${band.id}`}
        onPointerDown={onCarry}
      >
        <Cut section={section} cut={cut} />
      </div>
      <div className="flex items-center pr-3 pl-1">
        <Rename
          name={band.name}
          label="Name of this band"
          className="w-28"
          onRename={(name) => change(band.id, { name })}
        >
          {(begin) => (
            <button
              type="button"
              className="flex min-w-0 items-center gap-1 py-1 font-semibold"
              aria-expanded={isOpen}
              onClick={onToggle}
              onDoubleClick={begin}
              onKeyDown={onF2(begin)}
              title={`${about.help} Double click to rename.`}
            >
              {isOpen ? <ChevronDown size={13} /> : <ChevronRight size={13} />}
              <span className="truncate">{title}</span>
            </button>
          )}
        </Rename>
        <span className="figures ml-2 truncate text-[11px] text-[var(--mute)]">{cut?.says}</span>
        <span className="ml-auto flex shrink-0 items-center">
          <Move band={band} bands={bands} by={-1} />
          <Move band={band} bands={bands} by={1} />
          <label className="ml-1 flex items-center" title="Switch this band off to see the material without it">
            <input
              type="checkbox"
              className="toggle toggle-xs"
              aria-label={`${title} on`}
              checked={band.on}
              onChange={(e) => switchBand(band.id, e.target.checked)}
            />
          </label>
        </span>
      </div>
      {isOpen && (
        <div className="pr-3 pb-2 pl-1.5">
          {isSplit && !about.rules.splits && <SideChoice band={band} bands={bands} />}
          {effective(dialsOf(about), band, isDriven)
            .filter((dial) => dial.type !== "vector" || dial.drivable)
            .map((dial) => (
              <BandDial key={dial.name} band={band} dial={dial} />
            ))}
          <button
            type="button"
            className="ml-7 py-1 text-[var(--mute)] hover:underline"
            aria-label={`Replace or remove ${title}`}
            onClick={() => removeBand(band.id)}
          >
            {about.rules.excludes?.length ? "make it clear glass again" : "take this band out"}
          </button>
          <button
            type="button"
            className="ml-3 py-1 text-[var(--mute)] hover:underline"
            aria-label={`Copy ${title}`}
            title="Copy this band and what drives it, to paste into another material"
            onClick={() => copyBand(band)}
          >
            copy
          </button>
          <button
            type="button"
            className="ml-3 py-1 text-[var(--mute)] hover:underline"
            aria-label={`Keep ${title}`}
            title="Keep this band and what drives it as a preset, for any material"
            onClick={() => keepBand(band)}
          >
            keep
          </button>
        </div>
      )}
    </section>
  );
}

const SIDES: Record<Side, string> = { both: "", first: "mr-[50%]", second: "ml-[50%]" };

/** A place outwards or inwards; where that cannot be, the reason. */
function Move({ band, bands, by }: { band: Band; bands: Band[]; by: number }) {
  const catalogue = useCatalogue();
  const next = moved(bands, band.id, by);
  const word = by < 0 ? "outwards" : "inwards";
  const reason = next === bands ? `It is ${by < 0 ? "outermost" : "innermost"} already.` : whyNotSo(catalogue, next);
  const Arrow = by < 0 ? ArrowUp : ArrowDown;
  return (
    <button
      type="button"
      className={`grid h-6 w-6 place-items-center ${reason ? "opacity-25" : "hover:bg-base-200"}`}
      aria-label={`Move ${band.name || band.kind} ${word}`}
      aria-disabled={!!reason}
      title={reason ?? `Move ${word}`}
      onClick={() => !reason && changeBands(() => next)}
    >
      <Arrow size={13} />
    </button>
  );
}

/** On which side of the split a band lies. */
function SideChoice({ band, bands }: { band: Band; bands: Band[] }) {
  const catalogue = useCatalogue();
  const sides: Side[] = ["both", "first", "second"];
  const fits = (side: Side) =>
    !whyNotSo(
      catalogue,
      bands.map((one) => (one.id === band.id ? { ...one, side } : one)),
    );
  return (
    <label className="ml-7.5 flex items-center justify-between gap-2 py-0.5">
      Side of the split
      <select
        className="select select-xs w-auto bg-transparent"
        aria-label={`Side of ${band.name || band.kind}`}
        value={band.side}
        onChange={(e) => change(band.id, { side: e.target.value as Side })}
      >
        {sides.map((side) => (
          <option key={side} value={side} disabled={side !== band.side && !fits(side)}>
            {side}
          </option>
        ))}
      </select>
    </label>
  );
}

function BandDial({ band, dial }: { band: Band; dial: DialAbout }) {
  const wire = useDocuments((s) =>
    s.material.wires.find((w) => w.target.part === band.id && w.target.dial === dial.name),
  );
  const catalogue = useCatalogue();
  const paper = usePaper();
  const driven = useLive((s) => s.reading?.driven);
  const type = takes(dial);
  return (
    <div className="flex gap-1.5">
      <div className="w-6 shrink-0">
        {type && <Notch part={band.id} dial={dial.name} label={dial.label} type={type} driven={!!wire} />}
      </div>
      <div className="min-w-0 grow">
        <Dial
          about={dial}
          value={dialValue(band, dial)}
          of={band.id}
          driven={driverOf(catalogue, paper, wire, driven)}
        />
      </div>
    </div>
  );
}
