import type { Strips } from "../api/client";
import { say } from "../ui/numbers";

/** Rows of colour over a quantity, with the value that it has marked. */
export function StripsPlot({ strips }: { strips: Strips }) {
  const { x, rows, mark } = strips;
  const place = ((mark - x.low) / (x.high - x.low)) * 100;
  return (
    <figure>
      <div className="relative">
        {rows.map((row) => (
          <div key={row.label} className="flex items-center gap-2">
            <span className="figures w-7 text-right text-[var(--mute)]">{row.label}</span>
            <div
              className="h-7 grow border border-base-content"
              style={{ background: `linear-gradient(90deg, ${row.hex.join(", ")})` }}
            />
          </div>
        ))}
        <div className="absolute top-0 bottom-0 left-9 right-0">
          <div
            className="absolute top-0 bottom-0 border-l-2 border-white mix-blend-difference"
            style={{ left: `${place}%` }}
          />
        </div>
      </div>
      <div className="figures mt-0.5 ml-9 flex justify-between text-[var(--mute)]">
        {[0, 0.25, 0.5, 0.75, 1].map((share) => (
          <span key={share}>
            {say(Math.round(x.low + share * (x.high - x.low)))}
            {share === 1 ? ` ${x.unit}` : ""}
          </span>
        ))}
      </div>
      <figcaption className="mt-1 text-[var(--mute)]">
        {strips.caption}
        {strips.varies && " The thickness is driven: this is where the form faces the eye."}
      </figcaption>
    </figure>
  );
}
