import { useState } from "react";
import { followPointer } from "../ui/drag";

export type Place = [number, number];

interface SampledProps {
  of: "ours" | "theirs";
  canvas: React.RefObject<HTMLCanvasElement | null>;
  marks: { id: string; at: Place }[];
  onMark: (of: "ours" | "theirs", at: Place) => void;
  /** A part is being cut out: a drag from corner to corner. */
  onCrop?: (from: Place, to: Place) => void;
  fills?: boolean;
  isEmpty?: boolean;
}

const STEP = 0.02;
const MOVES: Record<string, Place> = {
  ArrowLeft: [-STEP, 0],
  ArrowRight: [STEP, 0],
  ArrowUp: [0, -STEP],
  ArrowDown: [0, STEP],
};
const clamped = (v: number) => Math.min(Math.max(v, 0), 1);

/** The picture or the photograph, of which places are sampled. */
export function Sampled({ of, canvas, marks, onMark, onCrop, fills, isEmpty }: SampledProps) {
  const [at, setAt] = useState<Place>([0.5, 0.5]);
  const [cut, setCut] = useState<{ from: Place; to: Place }>();
  const label = of === "ours" ? "The picture" : "The photograph";
  const drag = (event: React.PointerEvent<HTMLElement>) => {
    if (!onCrop) return;
    const box = event.currentTarget.getBoundingClientRect();
    const place = (e: { clientX: number; clientY: number }): Place => [
      clamped((e.clientX - box.left) / box.width),
      clamped((e.clientY - box.top) / box.height),
    ];
    const from = place(event);
    let to = from;
    followPointer(
      event,
      (e) => {
        to = place(e);
        setCut({ from, to });
      },
      () => {
        setCut(undefined);
        onCrop(from, to);
      },
    );
  };
  return (
    <figure className={fills ? "h-full" : ""}>
      <button
        type="button"
        className={`relative block w-full cursor-crosshair border border-base-content bg-[var(--mat)] ${fills ? "h-full" : ""}`}
        aria-label={`${label}: sample a place; arrow keys move it`}
        onPointerDown={drag}
        onClick={(e) => {
          if (onCrop) return;
          const box = e.currentTarget.getBoundingClientRect();
          const isKey = e.detail === 0;
          onMark(of, isKey ? at : [(e.clientX - box.left) / box.width, (e.clientY - box.top) / box.height]);
        }}
        onKeyDown={(e) => {
          const by = MOVES[e.key];
          if (!by) return;
          e.preventDefault();
          setAt([clamped(at[0] + by[0]), clamped(at[1] + by[1])]);
        }}
      >
        <canvas ref={canvas} className={fills ? "h-full w-full object-cover" : "block w-full"} />
        {isEmpty && <span className="block py-24 text-white">Put in a photograph above.</span>}
        {marks.map((one) => (
          <span
            key={one.id}
            className="figures -translate-x-1/2 -translate-y-1/2 absolute border border-black bg-marker px-1 text-[10px] text-black"
            style={{ left: `${100 * one.at[0]}%`, top: `${100 * one.at[1]}%` }}
          >
            {one.id}
          </span>
        ))}
        {cut && (
          <span
            className="absolute border border-white shadow-[0_0_0_9999px_#0008]"
            style={{
              left: `${100 * Math.min(cut.from[0], cut.to[0])}%`,
              top: `${100 * Math.min(cut.from[1], cut.to[1])}%`,
              width: `${100 * Math.abs(cut.to[0] - cut.from[0])}%`,
              height: `${100 * Math.abs(cut.to[1] - cut.from[1])}%`,
            }}
          />
        )}
      </button>
      {!fills && <figcaption className="text-[var(--mute)]">{label.toLowerCase()}</figcaption>}
    </figure>
  );
}
