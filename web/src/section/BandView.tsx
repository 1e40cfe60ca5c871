import { ChevronDown, ChevronRight } from "lucide-react";
import { dialsOf, dialValue, effective, takes, useKind } from "../api/catalogue";
import type { Band, DialAbout } from "../api/client";
import { removeBand, switchBand, useDocuments } from "../bench/documents";
import { useLive } from "../bench/live";
import { Dial } from "../ui/Dial";
import { CUTS } from "./cuts";
import { Notch } from "./Notch";

interface BandViewProps {
  band: Band;
  isOpen: boolean;
  onToggle: () => void;
}

/** One layer of the section: its cut, and its dials when it is open. */
export function BandView({ band, isOpen, onToggle }: BandViewProps) {
  const about = useKind("band", band.kind);
  const section = useLive((s) => s.reading?.section);
  if (!about) return null;
  const Cut = CUTS[band.kind];
  return (
    <section className="border-t border-base-content" aria-label={about.title} data-band={band.id}>
      <div className={band.on ? "" : "opacity-30"}>{Cut && <Cut section={section} />}</div>
      <div className="flex items-center justify-between pr-3 pl-1">
        <button
          type="button"
          className="flex items-center gap-1 py-1 font-semibold"
          aria-expanded={isOpen}
          onClick={onToggle}
          title={about.help}
        >
          {isOpen ? <ChevronDown size={13} /> : <ChevronRight size={13} />}
          {about.title}
        </button>
        <button
          type="button"
          className="ml-auto px-2 py-1 text-[var(--mute)] hover:underline"
          aria-label={`Replace or remove ${about.title}`}
          title={about.name === "metal" ? "Make it clear glass again" : "Take this band out"}
          onClick={() => removeBand(band.id)}
        >
          {about.name === "metal" ? "to glass" : "remove"}
        </button>
        <label
          className="flex items-center gap-1.5 text-[var(--mute)]"
          title="Switch this band off to see the material without it"
        >
          {band.on ? "on" : "off"}
          <input
            type="checkbox"
            className="toggle toggle-md"
            aria-label={`${about.title} on`}
            checked={band.on}
            onChange={(e) => switchBand(band.id, e.target.checked)}
          />
        </label>
      </div>
      {isOpen && (
        <div className="pr-3 pb-2 pl-1.5">
          {effective(dialsOf(about), band).map((dial) => (
            <BandDial key={dial.name} band={band} dial={dial} />
          ))}
        </div>
      )}
    </section>
  );
}

function BandDial({ band, dial }: { band: Band; dial: DialAbout }) {
  const wire = useDocuments((s) =>
    s.material.wires.find((w) => w.target.part === band.id && w.target.dial === dial.name),
  );
  const range = useLive((s) => s.reading?.driven[`${band.id}.${dial.name}`]);
  const type = takes(dial);
  return (
    <div className="flex gap-1.5">
      <div className="w-6 shrink-0">{type && <Notch part={band.id} dial={dial} type={type} driven={!!wire} />}</div>
      <div className="min-w-0 grow">
        <Dial
          about={dial}
          value={dialValue(band, dial)}
          of={band.id}
          driven={wire && { by: wire.source.slip, ...range }}
        />
      </div>
    </div>
  );
}
