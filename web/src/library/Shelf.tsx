import { type ReactNode, useState } from "react";
import { Seek } from "./Seek";

interface ShelfProps<One> {
  title: string;
  placeholder: string;
  all: One[];
  /** What one of them is sought by. */
  words: (one: One) => string;
  /** Of what is shown, as list items. */
  className: string;
  children: (shown: One[]) => ReactNode;
}

/** A shelf of the library: what is on it is sought by words. */
export function Shelf<One>({ title, placeholder, all, words, className, children }: ShelfProps<One>) {
  const [sought, setSought] = useState("");
  const shown = all.filter((one) => words(one).toLowerCase().includes(sought.toLowerCase()));
  return (
    <section className="flex h-full min-w-0 flex-col bg-base-100 text-base-content" aria-label={title}>
      <Seek
        title={title}
        placeholder={placeholder}
        sought={sought}
        onSeek={setSought}
        shown={shown.length}
        of={all.length}
      />
      <ul className={`min-h-0 grow overflow-y-auto ${className}`}>{children(shown)}</ul>
    </section>
  );
}
