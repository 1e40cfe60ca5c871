import { type ReactNode, useState } from "react";
import { useCatalogue } from "../api/catalogue";
import { Seek } from "./Seek";
import { type Measured, putOnBench } from "./substances";

interface MeasuredShelfProps<T extends Measured> {
  title: string;
  placeholder: string;
  /** In the order in which they are shown. */
  all: T[];
  /** What is chosen at first. */
  first: string;
  /** The words that one is sought by. */
  wordsOf: (one: T) => string;
  columns: { title: string; says: (one: T) => string; isFigure?: boolean }[];
  /** What is told of the chosen one, above the button that puts it on the bench. */
  children: (chosen: T) => ReactNode;
}

/** A shelf of measured matter: seek in it, look at one with its curves and its source, put it on the bench with one click. */
export function MeasuredShelf<T extends Measured>(props: MeasuredShelfProps<T>) {
  const { title, placeholder, all, first, wordsOf, columns, children } = props;
  const [sought, setSought] = useState("");
  const [name, setName] = useState(first);
  const [says, setSays] = useState("");
  const catalogue = useCatalogue();
  const shown = all.filter((one) => wordsOf(one).toLowerCase().includes(sought.toLowerCase()));
  const chosen = all.find((one) => one.name === name);
  return (
    <div className="flex h-full bg-base-100 text-base-content">
      <section className="flex min-w-0 grow flex-col" aria-label={title}>
        <Seek
          title={title}
          placeholder={placeholder}
          sought={sought}
          onSeek={setSought}
          shown={shown.length}
          of={all.length}
        />
        <div className="min-h-0 grow overflow-y-auto px-3">
          <table className="w-full">
            <thead className="sticky top-0 bg-base-100 text-left text-[var(--mute)]">
              <tr>
                <th className="py-1 font-normal">name</th>
                {columns.map((column) => (
                  <th key={column.title} className={`font-normal ${column.isFigure ? "text-right" : ""}`}>
                    {column.title}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {shown.map((one) => (
                <tr key={one.name} className="border-t border-base-200">
                  <td>
                    <button
                      type="button"
                      className="min-h-6 text-left"
                      aria-pressed={one.name === name}
                      onClick={() => setName(one.name)}
                    >
                      <span className={one.name === name ? "marked" : "hover:underline"}>{one.title}</span>
                    </button>
                  </td>
                  {columns.map((column) => (
                    <td key={column.title} className={column.isFigure ? "figures text-right" : "text-[var(--mute)]"}>
                      {column.says(one)}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </section>
      {chosen && (
        <aside className="w-[46%] shrink-0 overflow-y-auto border-l border-base-content p-3" aria-label={chosen.title}>
          <h2 className="text-[14px] font-semibold">{chosen.title}</h2>
          {children(chosen)}
          <button
            type="button"
            className="btn btn-sm my-2 bg-marker text-[#1d1d1d]"
            onClick={() => setSays(putOnBench(chosen, catalogue))}
          >
            Put on the bench
          </button>
          {says && <p role="status">{says}</p>}
          <p className="mt-2 text-[11px] text-[var(--mute)]">
            Source: {chosen.source} {chosen.licence}.
          </p>
        </aside>
      )}
    </div>
  );
}
