import type { DialAbout } from "../api/client";

interface TextDialProps {
  about: DialAbout;
  value: string;
  onChange: (value: string) => void;
  onBegin?: () => void;
  onEnd?: () => void;
}

/** Words of a person; what is typed in one go is undone in one step. */
export function TextDial({ about, value, onChange, onBegin, onEnd }: TextDialProps) {
  return (
    <textarea
      className="nodrag nowheel w-full resize-y border border-base-300 bg-transparent px-1"
      rows={4}
      aria-label={about.label}
      value={value}
      onFocus={onBegin}
      onBlur={onEnd}
      onChange={(e) => onChange(e.target.value)}
      onKeyDown={(e) => e.stopPropagation()}
    />
  );
}
