import { type PointerEvent, useRef } from "react";
import { followPointer } from "./drag";

export type Point = [number, number];

export interface Axis {
  low: number;
  high: number;
  /** To how many places a number is rounded. */
  places: number;
  unit?: string;
}

interface PointsPaperProps {
  points: Point[];
  across: Axis;
  up: Axis;
  label: string;
  /** Lines across the paper. */
  lines: number[];
  /** The line through the points, in the paper's own measure. */
  path: (x: (value: number) => number, y: (value: number) => number) => string;
  chosen?: number;
  onChoose?: (i: number) => void;
  onSet: (i: number, point: Point) => void;
  onAdd: (point: Point) => void;
  onRemove: (i: number) => void;
  onBegin?: () => void;
  onEnd?: () => void;
}

const WIDE = 200;
const HIGH = 70;
const MARGIN = 5;
const STEP = 0.02;
/** More points than these are drawn as a line only. */
const MOST_HANDLES = 64;

/** Points on squared paper: drag one or move it with the arrows, double click the paper for a new one, a point to take it off. */
export function PointsPaper({ points, across, up, label, lines, path, ...how }: PointsPaperProps) {
  const paper = useRef<SVGSVGElement>(null);
  const x = (value: number) => MARGIN + ((value - across.low) / (across.high - across.low)) * (WIDE - 2 * MARGIN);
  const y = (value: number) => HIGH - MARGIN - ((value - up.low) / (up.high - up.low)) * (HIGH - 2 * MARGIN);
  const on = (axis: Axis, share: number) =>
    Number((axis.low + Math.min(Math.max(share, 0), 1) * (axis.high - axis.low)).toFixed(axis.places));
  const placeOf = (e: { clientX: number; clientY: number }): Point => {
    const box = paper.current?.getBoundingClientRect();
    if (!box) return [across.low, up.low];
    const left = ((e.clientX - box.left) / box.width) * WIDE;
    const top = ((e.clientY - box.top) / box.height) * HIGH;
    return [on(across, (left - MARGIN) / (WIDE - 2 * MARGIN)), on(up, (HIGH - MARGIN - top) / (HIGH - 2 * MARGIN))];
  };
  const drag = (i: number) => (event: PointerEvent<SVGCircleElement>) => {
    event.stopPropagation();
    how.onChoose?.(i);
    how.onBegin?.();
    followPointer(event, (e) => how.onSet(i, placeOf(e)), how.onEnd);
  };
  const step = (axis: Axis) => Math.max(STEP * (axis.high - axis.low), 10 ** -axis.places);
  const keys: Record<string, [number, number]> = {
    ArrowUp: [0, 1],
    ArrowDown: [0, -1],
    ArrowLeft: [-1, 0],
    ArrowRight: [1, 0],
  };
  const move = (i: number, [right, higher]: [number, number], finer: boolean) => {
    const by = finer ? 0.1 : 1;
    const rounded = (axis: Axis, value: number) => Number(value.toFixed(axis.places));
    const [a, b] = points[i];
    how.onSet(i, [
      rounded(across, a + right * by * step(across)),
      rounded(up, Math.min(Math.max(b + higher * by * step(up), up.low), up.high)),
    ]);
  };
  return (
    <svg
      ref={paper}
      viewBox={`0 0 ${WIDE} ${HIGH}`}
      className="block w-full touch-none border border-base-300 bg-base-200"
      role="application"
      aria-label={`${label}, ${points.length} points`}
      onDoubleClick={(e) => how.onAdd(placeOf(e))}
    >
      {lines.map((at) => (
        <line key={at} x1={x(at)} x2={x(at)} y1="0" y2={HIGH} stroke="currentColor" strokeOpacity="0.18" />
      ))}
      <path d={path(x, y)} fill="none" stroke="currentColor" strokeWidth="1.4" />
      {points.length <= MOST_HANDLES &&
        points.map(([a, b], i) => (
          <circle
            // biome-ignore lint/suspicious/noArrayIndexKey: points have no name but their place in the list
            key={i}
            cx={x(a)}
            cy={y(b)}
            r={i === how.chosen ? 4.4 : 3.4}
            className={`cursor-move stroke-base-content ${how.chosen === undefined || i === how.chosen ? "fill-marker" : "fill-base-100"}`}
            role="slider"
            tabIndex={0}
            aria-label={`Point ${i + 1}, at ${a} ${across.unit ?? ""}`.trim()}
            aria-valuenow={b}
            onFocus={() => how.onChoose?.(i)}
            onPointerDown={drag(i)}
            onDoubleClick={(e) => {
              e.stopPropagation();
              how.onRemove(i);
            }}
            onKeyDown={(e) => {
              if (keys[e.key]) move(i, keys[e.key], e.shiftKey);
              else if (e.key === "Delete") how.onRemove(i);
              else return;
              e.preventDefault();
              e.stopPropagation();
            }}
          />
        ))}
    </svg>
  );
}
