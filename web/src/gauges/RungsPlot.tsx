import type { Rungs } from "../api/client";
import { say } from "../ui/numbers";

const AXIS = 5;

/** Percent of the width from which a label stands before its mark. */
const LATE = 88;

/** Colours after growing lengths, with the lengths that light travels in this picture below them. */
export function RungsPlot({ rungs }: { rungs: Rungs }) {
  const { lengths_cm: lengths, hex, measured } = rungs;
  const low = Math.log(lengths[0]);
  const span = Math.log(lengths[lengths.length - 1]) - low;
  const place = (cm: number) => Math.min(Math.max((Math.log(cm) - low) / span, 0), 1) * 100;
  const ticks = Array.from({ length: AXIS }, (_, i) => Math.exp(low + (span * i) / (AXIS - 1)));
  return (
    <figure data-testid="ladder">
      <div className="relative">
        <div className="flex h-14 border border-base-content">
          {hex.map((color, i) => (
            <i
              key={lengths[i]}
              className="grow"
              style={{ background: color }}
              title={`${say(lengths[i])} cm: ${color}`}
              data-rung={color}
            />
          ))}
        </div>
        <Mark at={place(rungs.depth_cm)} says="depth" />
      </div>
      <div className="figures mt-0.5 flex justify-between text-[var(--mute)]">
        {ticks.map((cm) => (
          <span key={cm}>{say(Number(cm.toPrecision(2)))} cm</span>
        ))}
      </div>
      {measured && <Histogram measured={measured} place={place} />}
      <figcaption className="mt-1 text-[var(--mute)]" data-testid="lengths">
        {measured
          ? `Light travels ${say(Number(measured.low_cm.toPrecision(2)))} to ${say(Number(measured.high_cm.toPrecision(2)))} cm inside this form in this picture; half of it under ${say(Number(measured.middle_cm.toPrecision(2)))} cm.`
          : "No light goes through the form in this picture."}
        {rungs.varies && " The colour is driven: this is its value where the form faces the eye."}
      </figcaption>
    </figure>
  );
}

function Mark({ at, says }: { at: number; says: string }) {
  return (
    <div className="absolute top-0 h-14 border-l border-base-content" style={{ left: `${at}%` }}>
      <span className={`absolute top-0 bg-base-100 px-1 text-[10px] ${at > LATE ? "right-0" : "left-0"}`}>{says}</span>
    </div>
  );
}

function Histogram({ measured, place }: { measured: NonNullable<Rungs["measured"]>; place: (cm: number) => number }) {
  const most = Math.max(...measured.counts);
  const bars = measured.counts.map((count, i) => ({
    count,
    from: place(measured.edges_cm[i]),
    to: place(measured.edges_cm[i + 1]),
  }));
  return (
    <svg
      className="mt-1 block h-9 w-full text-[var(--mute)]"
      viewBox="0 0 100 36"
      preserveAspectRatio="none"
      role="img"
    >
      <title>how often light travels each length</title>
      {bars
        .filter((bar) => bar.count > 0 && bar.to > bar.from)
        .map((bar) => {
          const height = (bar.count / most) * 34;
          return (
            <rect
              key={bar.from}
              x={bar.from}
              y={36 - height}
              width={(bar.to - bar.from) * 0.85}
              height={height}
              fill="currentColor"
            />
          );
        })}
      <path
        d={`M${place(measured.middle_cm)} 0V36`}
        stroke="var(--color-base-content)"
        strokeWidth="1.5"
        vectorEffect="non-scaling-stroke"
      />
    </svg>
  );
}
