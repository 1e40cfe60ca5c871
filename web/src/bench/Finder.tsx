import { useState } from "react";
import { Sheet } from "../ui/Sheet";

export interface Finding {
  title: string;
  says: string;
  help?: string;
  /** Shown before the help: what it looks like, as a CSS background. */
  swatch?: string;
  /** Other words to find it by. */
  also?: string;
  act: () => void;
}

/** Find and place a slip, or run a command, by typing. */
export function Finder({ title, findings, onClose }: { title: string; findings: Finding[]; onClose: () => void }) {
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const found = findings.filter((one) =>
    words.every((word) => `${one.title} ${one.says} ${one.also ?? ""} ${one.help ?? ""}`.toLowerCase().includes(word)),
  );
  const rank = ({ title }: Finding) =>
    [title.toLowerCase() === text.toLowerCase(), title.toLowerCase().startsWith(text.toLowerCase()), true].indexOf(
      true,
    );
  found.sort((a, b) => rank(a) - rank(b));
  const index = Math.min(at, found.length - 1);
  const run = (finding?: Finding) => {
    if (!finding) return;
    finding.act();
    onClose();
  };
  return (
    <Sheet title={title} onClose={onClose}>
      <input
        className="input input-sm w-full"
        aria-label="Find"
        placeholder="facing, ramp, save ..."
        // biome-ignore lint/a11y/noAutofocus: the sheet is opened to type in it
        autoFocus
        value={text}
        onChange={(e) => {
          setText(e.target.value);
          setAt(0);
        }}
        onKeyDown={(e) => {
          if (e.key === "ArrowDown") setAt(Math.min(index + 1, found.length - 1));
          else if (e.key === "ArrowUp") setAt(Math.max(index - 1, 0));
          else if (e.key === "Enter") run(found[index]);
          else return;
          e.preventDefault();
        }}
      />
      <ul className="mt-2 max-h-80 overflow-y-auto" aria-label="Found">
        {found.map((one, i) => (
          <li key={`${one.says} ${one.title}`} aria-current={i === index}>
            <button
              type="button"
              tabIndex={-1}
              className="flex w-full items-baseline gap-3 px-1 py-1 text-left hover:bg-base-200"
              onClick={() => run(one)}
            >
              <span className="w-36 shrink-0 truncate">
                <span className={i === index ? "marked" : ""}>{one.title}</span>
              </span>
              <span className="w-16 shrink-0 text-[var(--mute)]">{one.says}</span>
              {one.swatch && <i className="h-3 w-20 shrink-0 self-center border" style={{ background: one.swatch }} />}
              <span className="truncate text-[var(--mute)]">{one.help}</span>
            </button>
          </li>
        ))}
        {found.length === 0 && <li className="py-2">Nothing is called that. Try a part of a word.</li>}
      </ul>
    </Sheet>
  );
}
