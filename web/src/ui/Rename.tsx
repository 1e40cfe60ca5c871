import { useState } from "react";

interface RenameProps {
  name: string;
  /** What is being named, for those who do not see it. */
  label: string;
  className?: string;
  onRename: (name: string) => void;
  /** What stands there until it is double clicked, or F2 is pressed on it. */
  children: (begin: () => void) => React.ReactNode;
}

/** A name that can be typed over where it stands. */
export function Rename({ name, label, className, onRename, children }: RenameProps) {
  const [typed, setTyped] = useState<string>();
  if (typed === undefined) return children(() => setTyped(name));
  const done = () => {
    onRename(typed.trim().slice(0, 120));
    setTyped(undefined);
  };
  return (
    <input
      className={`nodrag border-b border-current bg-transparent ${className ?? ""}`}
      aria-label={label}
      // biome-ignore lint/a11y/noAutofocus: the person has just asked to type here
      autoFocus
      value={typed}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={done}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Enter") done();
        if (e.key === "Escape") setTyped(undefined);
      }}
    />
  );
}

/** Begins to rename on F2. */
export const onF2 = (begin: () => void) => (event: React.KeyboardEvent) => {
  if (event.key === "F2") begin();
};
