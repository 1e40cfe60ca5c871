import { useId } from "react";
import { type DialAbout, gridsIn } from "../api/client";
import { useFiles } from "../api/queries";

interface WordDialProps {
  about: DialAbout;
  value: string;
  /** The file whose grids are offered in place of what its description offers. */
  file?: string;
  onChange: (value: string) => void;
  onBegin?: () => void;
  onEnd?: () => void;
}

/** A word, of which some are offered. */
export function WordDial({ about, value, file, onChange, onBegin, onEnd }: WordDialProps) {
  const chosen = useFiles().find((one) => file && one.sha256 === file);
  const offers = chosen ? gridsIn(chosen).map((grid) => grid.name) : (about.offers ?? []);
  const list = useId();
  return (
    <label className="flex items-center justify-between gap-2 py-0.5" title={about.help}>
      {about.label}
      <input
        className="nodrag nowheel input input-xs w-24 min-w-0 shrink bg-transparent"
        list={list}
        value={value}
        onFocus={onBegin}
        onBlur={onEnd}
        onChange={(e) => onChange(e.target.value)}
        onKeyDown={(e) => e.stopPropagation()}
      />
      <datalist id={list}>
        {offers.map((one) => (
          <option key={one} value={one} />
        ))}
      </datalist>
    </label>
  );
}
