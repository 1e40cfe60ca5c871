import { type PointerEvent, useEffect, useRef, useState } from "react";
import { dialsOf, kindOf, useCatalogue } from "../api/catalogue";
import type { Kind } from "../api/client";
import { beginGesture, changePart, endGesture, useDocuments } from "../bench/documents";
import { useLive } from "../bench/live";
import { followPointer } from "../ui/drag";
import { useChosenPart } from "./chosen";
import { allowDrop, carriedTo, dropOn } from "./wearing";

interface PlanProps {
  /** Above: x to the right, z (the front) downwards. Front: x to the right, height upwards. */
  view: "above" | "front";
}

type Place = [number, number];

const rad = (deg: number) => (deg * Math.PI) / 180;
const deg = (r: number) => (r * 180) / Math.PI;
const number = (value: unknown, or: number) => (typeof value === "number" ? value : or);

/** Where a lamp or camera stands, in cm about the middle of the stage; one without a distance is far away. */
function standing(dials: Dials) {
  const azimuth = rad(number(dials.azimuth, 0));
  const elevation = rad(number(dials.elevation, 0));
  const distance = number(dials.distance, 1);
  return {
    x: Math.sin(azimuth) * Math.cos(elevation) * distance,
    y: Math.sin(elevation) * distance,
    z: Math.cos(azimuth) * Math.cos(elevation) * distance,
  };
}

type Dials = Record<string, unknown>;

/** The dials of a part, with what its kind has where they are not set. */
function withDefaults(kind: Kind | undefined, dials: Dials): Dials {
  return { ...Object.fromEntries((kind ? dialsOf(kind) : []).map((dial) => [dial.name, dial.default])), ...dials };
}

/** Dials that put a lamp or camera at a place of the plan; its height or its direction stays. */
function dialsAt(view: "above" | "front", at: Place, was: { x: number; y: number; z: number }) {
  const x = at[0];
  const z = view === "above" ? at[1] : was.z;
  const y = view === "above" ? was.y : -at[1];
  const flat = Math.hypot(x, z);
  const short = (v: number) => Number(v.toPrecision(4));
  return {
    azimuth: short(deg(Math.atan2(x, z))),
    elevation: short(Math.min(Math.max(deg(Math.atan2(y, flat)), -89), 89)),
    distance: short(Math.max(Math.hypot(flat, y), 1)),
  };
}

/** The lighting plan on graph paper, one square a centimetre (or ten): everything on it can be dragged. */
export function Plan({ view }: PlanProps) {
  const stage = useDocuments((s) => s.stage);
  const plan = useLive((s) => s.reading?.plan);
  const { path, choose } = useChosenPart();
  const svg = useRef<SVGSVGElement>(null);
  const [zoom, setZoom] = useState(1);
  useEffect(() => {
    const paper = svg.current;
    const wheel = (e: WheelEvent) => {
      e.preventDefault();
      setZoom((old) => Math.min(Math.max(old * (e.deltaY > 0 ? 1.15 : 1 / 1.15), 0.05), 4));
    };
    paper?.addEventListener("wheel", wheel, { passive: false });
    return () => paper?.removeEventListener("wheel", wheel);
  }, []);
  const catalogue = useCatalogue();
  const camera = standing(withDefaults(kindOf(catalogue, "camera", stage.camera.kind), stage.camera.dials));
  const lamps = stage.lamps.map((lamp) => {
    const kind = kindOf(catalogue, "lamp", lamp.kind);
    const dials = withDefaults(kind, lamp.dials);
    return { lamp, sign: kind?.rules.sign || "point", far: !("distance" in dials), at: standing(dials) };
  });
  const near = lamps.filter((one) => !one.far).map((one) => Math.hypot(one.at.x, one.at.z, one.at.y));
  const reach =
    zoom *
    Math.min(Math.max((plan?.size_cm ?? 10) * 0.8, Math.hypot(camera.x, camera.y, camera.z), ...near) * 1.12, 400);
  const tall = view === "above" ? reach : reach * 0.62;
  const square = reach > 60 ? 10 : 1;
  const flat = (p: { x: number; y: number; z: number }): Place => [p.x, view === "above" ? p.z : -p.y];

  const drag = (what: string, from: Place, move: (at: Place) => void) => (event: PointerEvent<SVGElement>) => {
    const paper = svg.current;
    const matrix = paper?.getScreenCTM()?.inverse();
    if (!paper || !matrix || event.button !== 0) return;
    event.preventDefault();
    event.stopPropagation();
    choose(what);
    const place = (e: { clientX: number; clientY: number }) =>
      new DOMPoint(e.clientX, e.clientY).matrixTransform(matrix);
    const start = place(event);
    beginGesture();
    const go = (e: globalThis.PointerEvent) => {
      const now = place(e);
      move([from[0] + now.x - start.x, from[1] + now.y - start.y]);
    };
    followPointer(event, go, endGesture);
  };

  const setDials = (part: string, dials: object) =>
    changePart(part, (one) => ({ ...one, dials: { ...(one.dials as object), ...dials } }));

  const half = Math.atan(18 / number(stage.camera.dials.focal_length, 80));
  const [cx, cy] = flat(camera);
  const toward = Math.atan2(-cy, -cx);
  const wedge = [-half, half].map((a) => [
    cx + Math.cos(toward + a) * reach * 2,
    cy + Math.sin(toward + a) * reach * 2,
  ]);
  const unit = reach / 100;
  return (
    <svg
      ref={svg}
      viewBox={`${-reach} ${-tall} ${2 * reach} ${2 * tall}`}
      className="block h-full w-full touch-none select-none"
      role="img"
      aria-label={view === "above" ? "Plan from above" : "View from the front"}
    >
      <defs>
        <pattern id={`squares-${view}`} width={square} height={square} patternUnits="userSpaceOnUse">
          <path d={`M${square} 0H0V${square}`} fill="none" stroke="var(--desk-line)" strokeWidth={unit * 0.25} />
        </pattern>
        <pattern id={`broad-${view}`} width={square * 10} height={square * 10} patternUnits="userSpaceOnUse">
          <path
            d={`M${square * 10} 0H0V${square * 10}`}
            fill="none"
            stroke="var(--desk-line-strong)"
            strokeWidth={unit * 0.4}
          />
        </pattern>
      </defs>
      <rect x={-2 * reach} y={-2 * tall} width={4 * reach} height={4 * tall} fill={`url(#squares-${view})`} />
      <rect x={-2 * reach} y={-2 * tall} width={4 * reach} height={4 * tall} fill={`url(#broad-${view})`} />
      {view === "front" && stage.floor && (
        <line
          x1={-2 * reach}
          x2={2 * reach}
          y1={-(plan?.floor_cm ?? 0)}
          y2={-(plan?.floor_cm ?? 0)}
          stroke="currentColor"
          strokeWidth={unit * 0.7}
        />
      )}
      <path
        d={`M${wedge[0]}L${cx} ${cy}L${wedge[1]}`}
        fill="none"
        stroke="currentColor"
        strokeWidth={unit * 0.4}
        strokeDasharray={`${unit * 2} ${unit * 1.5}`}
      />
      {stage.objects.map((one, i) => {
        const what = `objects.${i}`;
        const shapes = plan?.outlines.filter((shape) => shape.object === one.id) ?? [];
        const move = ([x, y]: Place) =>
          changePart(what, (o) => ({
            ...o,
            at: view === "above" ? [round(x), one.at[1], round(y)] : [round(x), round(Math.max(-y, -1000)), one.at[2]],
          }));
        return (
          <g
            key={one.id}
            className="cursor-move"
            onPointerDown={drag(what, view === "above" ? [one.at[0], one.at[2]] : [one.at[0], -one.at[1]], move)}
          >
            {shapes.map((shape, k) => (
              // biome-ignore lint/a11y/noStaticElementInteractions: what is dropped here is chosen in the part's card by keyboard
              <polygon
                key={shape.part}
                onDragOver={allowDrop}
                onDrop={(e) => {
                  e.preventDefault();
                  dropOn(one.id, shape.part, carriedTo(e));
                }}
                points={shape[view].map(([x, y]) => `${x},${view === "above" ? y : -y}`).join(" ")}
                fill={
                  path === what
                    ? "color-mix(in srgb, var(--color-marker) 55%, transparent)"
                    : "color-mix(in srgb, var(--color-base-100) 80%, transparent)"
                }
                stroke="currentColor"
                strokeWidth={unit * (k ? 0.45 : 0.9)}
              />
            ))}
          </g>
        );
      })}
      {lamps.map(({ lamp, sign, far, at }, i) => {
        const what = `lamps.${i}`;
        const place = far ? flat(scaled(at, reach * 0.85)) : flat(at);
        const move = (to: Place) => {
          const { distance, ...turned } = dialsAt(view, to, far ? scaled(at, reach * 0.85) : at);
          setDials(what, far ? turned : { distance, ...turned });
        };
        return (
          <g key={lamp.id} className="cursor-move" opacity={lamp.on ? 1 : 0.35} onPointerDown={drag(what, place, move)}>
            <line x1={place[0]} y1={place[1]} x2="0" y2="0" stroke="currentColor" strokeWidth={unit * 0.25} />
            <circle cx={place[0]} cy={place[1]} r={unit * 7} fill="transparent" />
            <LampSign sign={sign} at={place} unit={unit} chosen={path === what} />
            <Label at={[place[0], place[1] - unit * 8]} unit={unit} chosen={path === what}>
              {lamp.name || lamp.kind}
            </Label>
          </g>
        );
      })}
      <g
        className="cursor-move"
        onPointerDown={drag("camera", [cx, cy], (to) => setDials("camera", dialsAt(view, to, camera)))}
      >
        <circle cx={cx} cy={cy} r={unit * 7} fill="transparent" />
        <path
          transform={`translate(${cx} ${cy}) rotate(${deg(toward)}) scale(${unit})`}
          d="M-6 -4H3V4H-6ZM3 -2L7 -4V4L3 2"
          fill="var(--color-base-100)"
          stroke="currentColor"
          strokeWidth="0.9"
        />
        <Label at={[cx, cy + unit * (view === "above" ? 13 : -9)]} unit={unit} chosen={path === "camera"}>
          camera
        </Label>
      </g>
      <text x={-reach + unit * 3} y={tall - unit * 3} fontSize={unit * 5} fill="currentColor">
        {view === "above" ? "from above" : "from the front"}, 1 square = {square} cm
      </text>
    </svg>
  );
}

const round = (v: number) => Number(v.toFixed(2));
const scaled = (p: { x: number; y: number; z: number }, to: number) => {
  const size = Math.hypot(p.x, p.y, p.z) || 1;
  return { x: (p.x / size) * to, y: (p.y / size) * to, z: (p.z / size) * to };
};

function Label({ at, unit, chosen, children }: { at: Place; unit: number; chosen: boolean; children: string }) {
  const wide = children.length * unit * 2.7;
  return (
    <g pointerEvents="none">
      {chosen && (
        <rect
          x={at[0] - wide / 2 - unit}
          y={at[1] - unit * 4.2}
          width={wide + 2 * unit}
          height={unit * 5.6}
          fill="var(--color-marker)"
        />
      )}
      <text x={at[0]} y={at[1]} fontSize={unit * 5} textAnchor="middle" fill={chosen ? "#1d1d1d" : "currentColor"}>
        {children}
      </text>
    </g>
  );
}

type Sign = Exclude<Kind["rules"]["sign"], "" | undefined>;

const SIGNS: Record<Sign, React.ReactNode> = {
  bar: <path d="M-1.5 -6V6H1.5V-6Z" />,
  disc: <path d="M0 -6A6 6 0 0 1 0 6Z" />,
  ball: <circle r="4.5" />,
  point: <path d="M-4 0H4M0 -4V4" />,
  sun: <path d="M-3 0A3 3 0 1 0 3 0A3 3 0 1 0 -3 0M4.5 0H7M-7 0H-4.5M0 4.5V7M0 -7V-4.5" />,
  beam: <path d="M-5 -2.5H0V2.5H-5ZM0 -2.5L7 -5M0 2.5L7 5" />,
};

/** The sign of a lamp, turned to what it lights. */
function LampSign({ sign, at, unit, chosen }: { sign: Sign; at: Place; unit: number; chosen: boolean }) {
  const turn = deg(Math.atan2(-at[1], -at[0]));
  return (
    <g
      transform={`translate(${at[0]} ${at[1]}) rotate(${turn}) scale(${unit})`}
      fill={chosen ? "var(--color-marker)" : "var(--color-base-100)"}
      stroke="currentColor"
      strokeWidth="0.9"
    >
      {SIGNS[sign]}
    </g>
  );
}
