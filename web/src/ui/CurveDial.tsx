import { type PointerEvent, useRef, useState } from "react";
import { api, type DialAbout, wordsOf } from "../api/client";
import { followPointer } from "./drag";

type Point = [number, number];

interface CurveDialProps {
  about: DialAbout;
  value: Point[];
  onChange: (value: Point[]) => void;
  onBegin?: () => void;
  onEnd?: () => void;
}

const LOW_NM = 380;
const HIGH_NM = 780;
const WIDE = 200;
const HIGH = 70;

const x = (nm: number) => ((nm - LOW_NM) / (HIGH_NM - LOW_NM)) * WIDE;
const y = (share: number) => (1 - share) * HIGH;

/** Points over wavelength: drag one, double click the paper for a new one or a point to take it off; or paste a measured curve. */
export function CurveDial({ about, value, onChange, onBegin, onEnd }: CurveDialProps) {
  const paper = useRef<SVGSVGElement>(null);
  const [pasting, setPasting] = useState(false);
  const placeOf = (e: { clientX: number; clientY: number }): Point => {
    const box = paper.current?.getBoundingClientRect();
    if (!box) return [LOW_NM, 0];
    const nm = LOW_NM + ((e.clientX - box.left) / box.width) * (HIGH_NM - LOW_NM);
    const share = 1 - (e.clientY - box.top) / box.height;
    return [Math.round(nm), Number(Math.min(Math.max(share, 0), 1).toFixed(3))];
  };
  const set = (i: number, [nm, share]: Point) => {
    const low = (value[i - 1]?.[0] ?? 199) + 1;
    const high = (value[i + 1]?.[0] ?? 3001) - 1;
    onChange(value.map((old, k) => (k === i ? [Math.min(Math.max(nm, low), high), share] : old)));
  };
  const drag = (i: number) => (event: PointerEvent<SVGCircleElement>) => {
    event.stopPropagation();
    onBegin?.();
    followPointer(event, (e) => set(i, placeOf(e)), onEnd);
  };
  const add = (e: React.MouseEvent) => {
    const [nm, share] = placeOf(e);
    if (value.length < 64 && !value.some((point) => Math.abs(point[0] - nm) < 2))
      onChange([...value, [nm, share] as Point].sort((a, b) => a[0] - b[0]));
  };
  const remove = (i: number) => value.length > 2 && onChange(value.filter((_, k) => k !== i));
  return (
    <div className="nodrag py-0.5" data-dial={about.name} title={about.help}>
      <div className="flex items-center justify-between">
        {about.label}
        <button type="button" className="py-1 underline" onClick={() => setPasting(!pasting)}>
          paste or open a curve
        </button>
      </div>
      <svg
        ref={paper}
        viewBox={`0 0 ${WIDE} ${HIGH}`}
        className="block w-full touch-none border border-base-300 bg-base-200"
        role="application"
        aria-label={`${about.label} over wavelength, ${value.length} points`}
        onDoubleClick={add}
      >
        {[450, 550, 650, 750].map((nm) => (
          <line key={nm} x1={x(nm)} x2={x(nm)} y1="0" y2={HIGH} stroke="currentColor" strokeOpacity="0.18" />
        ))}
        <polyline
          points={value.map(([nm, share]) => `${x(nm)},${y(share)}`).join(" ")}
          fill="none"
          stroke="currentColor"
          strokeWidth="1.4"
        />
        {value.length <= 64 &&
          value.map(([nm, share], i) => (
            <circle
              // biome-ignore lint/suspicious/noArrayIndexKey: points have no name but their place in the list
              key={i}
              cx={x(nm)}
              cy={y(share)}
              r="3.4"
              className="cursor-move fill-marker stroke-base-content"
              role="slider"
              tabIndex={0}
              aria-label={`${nm} nm`}
              aria-valuenow={share}
              onPointerDown={drag(i)}
              onDoubleClick={(e) => {
                e.stopPropagation();
                remove(i);
              }}
              onKeyDown={(e) => {
                const by = { ArrowUp: [0, 0.02], ArrowDown: [0, -0.02], ArrowLeft: [-2, 0], ArrowRight: [2, 0] }[e.key];
                if (by) set(i, [nm + by[0], Number(Math.min(Math.max(share + by[1], 0), 1).toFixed(3))]);
                else if (e.key === "Delete") remove(i);
                else return;
                e.preventDefault();
                e.stopPropagation();
              }}
            />
          ))}
      </svg>
      <div className="ends">
        <span>380 nm</span>
        <span>780 nm</span>
      </div>
      {pasting && <CurvePaste onTake={(points) => onChange(points)} />}
    </div>
  );
}

/** Reads a curve from CSV or SPDX, pasted or from a file. */
export function CurvePaste({ onTake }: { onTake: (points: Point[]) => void }) {
  const [says, setSays] = useState("");
  const take = async (text: string) => {
    const { data, error } = await api.POST("/api/curves", { body: { text } });
    if (!data) {
      setSays(wordsOf(error));
      return;
    }
    setSays(`${data.points.length} points taken`);
    onTake(data.points as Point[]);
  };
  return (
    <div className="mt-1 border-l-2 border-base-300 pl-2">
      <textarea
        className="figures h-16 w-full border border-base-300 bg-transparent p-1"
        placeholder={"wavelength in nm, share\n400, 0.35\n..."}
        aria-label="Curve as text, CSV or SPDX"
        onKeyDown={(e) => e.stopPropagation()}
        onChange={(e) => e.target.value.trim() && take(e.target.value)}
      />
      <input
        type="file"
        className="file-input file-input-xs w-full"
        accept=".csv,.txt,.spdx,.xml"
        aria-label="Curve from a file"
        onChange={async (e) => {
          const file = e.target.files?.[0];
          if (file) take(await file.text());
        }}
      />
      {says && <p role="status">{says}</p>}
    </div>
  );
}
