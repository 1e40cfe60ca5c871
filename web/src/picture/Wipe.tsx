import { useState } from "react";
import { followPointer } from "../ui/drag";

/** A picture laid over the left part of another; the edge is dragged, or moved by the arrow keys. says: what is laid over. */
export function Wipe({ picture, says = "proof" }: { picture: string; says?: string }) {
  const [at, setAt] = useState(0.5);
  const move = (share: number) => setAt(Math.min(Math.max(share, 0), 1));
  return (
    <>
      <img
        className="pointer-events-none absolute inset-0 h-full w-full"
        style={{ clipPath: `inset(0 ${100 - at * 100}% 0 0)` }}
        src={picture}
        alt={`the ${says}, left of the edge`}
      />
      <div
        role="slider"
        tabIndex={0}
        aria-label={`Edge between ${says} and picture`}
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.round(at * 100)}
        className="absolute top-0 bottom-0 w-6 -translate-x-1/2 cursor-col-resize"
        style={{ left: `${at * 100}%` }}
        onPointerDown={(event) => {
          const frame = event.currentTarget.parentElement?.getBoundingClientRect();
          if (frame) followPointer(event, (e) => move((e.clientX - frame.left) / frame.width));
          event.stopPropagation();
        }}
        onKeyDown={(event) => {
          const steps: Record<string, number> = { ArrowLeft: -0.02, ArrowRight: 0.02 };
          if (!steps[event.key]) return;
          move(at + steps[event.key]);
          event.preventDefault();
          event.stopPropagation();
        }}
      >
        <div className="mx-auto h-full w-0.5 bg-white shadow-[0_0_2px_#000]" />
      </div>
    </>
  );
}
