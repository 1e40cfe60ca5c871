interface SeekProps {
  title: string;
  placeholder: string;
  sought: string;
  onSeek: (sought: string) => void;
  shown: number;
  of: number;
}

/** The head of a shelf: what is on it, and a field to seek in it. */
export function Seek({ title, placeholder, sought, onSeek, shown, of }: SeekProps) {
  return (
    <label className="flex items-center gap-3 border-b border-base-300 p-3">
      <span className="font-semibold">{title}</span>
      <input
        className="input input-xs w-56 bg-transparent"
        placeholder={placeholder}
        aria-label={`Seek ${title.toLowerCase()}`}
        value={sought}
        onChange={(e) => onSeek(e.target.value)}
        onKeyDown={(e) => e.stopPropagation()}
      />
      <span className="text-[var(--mute)]">
        {shown} of {of}
      </span>
    </label>
  );
}
