import type { ReportOf } from "../api/client";

type Line = ReportOf["lines"][number];

const GROUPS: { went: Line["went"]; title: string; sign: string }[] = [
  { went: "not", title: "left out", sign: "–" },
  { went: "nearly", title: "comes near", sign: "≈" },
  { went: "to set", title: "to be set on the other side", sign: "→" },
  { went: "exactly", title: "exactly", sign: "=" },
];

/** What became of a document, line by line: what was lost first. */
export function Report({ of, label }: { of: ReportOf; label: string }) {
  return (
    <section aria-label={label} className="flex flex-col gap-2">
      {GROUPS.map(({ went, title, sign }) => {
        const lines = of.lines.filter((line) => line.went === went);
        if (lines.length === 0) return null;
        return (
          <table key={went} className="w-full border-collapse text-left">
            <caption className="border-b border-base-content text-left font-semibold">
              <span aria-hidden="true" className="figures mr-2 inline-block w-3 text-center">
                {sign}
              </span>
              {title} <span className="figures text-[var(--mute)]">{lines.length}</span>
            </caption>
            <tbody>
              {lines.map((line) => (
                <tr key={`${line.what} ${line.says}`} className="border-b border-base-300 align-top">
                  <th scope="row" className="w-[34%] py-0.5 pr-3 pl-5 font-normal">
                    {line.what}
                  </th>
                  <td className="py-0.5 pr-3 text-[var(--mute)]">{line.says}</td>
                  <td className="figures whitespace-nowrap py-0.5 text-right">{line.figure}</td>
                </tr>
              ))}
            </tbody>
          </table>
        );
      })}
    </section>
  );
}
