import type { KeyboardEvent, MouseEvent } from "react";
import type { Comment } from "../api/client";
import { usePointed } from "./people";

const STEP = 0.02;
const STEPS: Record<string, [number, number]> = {
  ArrowLeft: [-STEP, 0],
  ArrowRight: [STEP, 0],
  ArrowUp: [0, -STEP],
  ArrowDown: [0, STEP],
};

const within = (share: number) => Math.min(Math.max(share, 0), 1);
const placed = ([x, y]: readonly number[]) => ({ left: `${100 * x}%`, top: `${100 * y}%` });

/** Over a proof: where something was said of it. A click points at a place; so do Enter and the arrow keys. */
export function Pins({ comments }: { comments: Comment[] }) {
  const { at, chosen } = usePointed();
  const point = (next: [number, number]) => usePointed.setState({ at: next, chosen: undefined });
  const click = (event: MouseEvent<HTMLButtonElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const byKeyboard = event.detail === 0;
    point(byKeyboard ? [0.5, 0.5] : [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height]);
  };
  const press = (event: KeyboardEvent) => {
    event.stopPropagation();
    const step = STEPS[event.key];
    if (!step) return;
    event.preventDefault();
    const [x, y] = at ?? [0.5, 0.5];
    point([within(x + step[0]), within(y + step[1])]);
  };
  return (
    <>
      <button
        type="button"
        className="absolute inset-0 cursor-crosshair"
        aria-label="Point at a place of the proof"
        onClick={click}
        onKeyDown={press}
      />
      {comments.map(
        (one, i) =>
          one.at && (
            <button
              type="button"
              key={one.id}
              className={`figures absolute h-6 w-6 -translate-x-1/2 -translate-y-1/2 border border-black text-[11px] ${one.id === chosen ? "bg-marker text-[#1d1d1d]" : "bg-[#000c] text-white"}`}
              style={placed(one.at)}
              aria-label={`Comment ${i + 1} of ${one.author}`}
              title={`${one.author}: ${one.says}`}
              onClick={() => usePointed.setState({ at: undefined, chosen: one.id })}
            >
              {i + 1}
            </button>
          ),
      )}
      {at && (
        <span
          className="pointer-events-none absolute h-5 w-5 -translate-x-1/2 -translate-y-1/2 border-2 border-marker [box-shadow:0_0_0_1px_#000]"
          style={placed(at)}
          data-testid="pointed"
        />
      )}
    </>
  );
}
