import { Minus, Plus } from "lucide-react";
import { type PointerEvent, useRef, useState } from "react";
import { useCatalogue } from "../api/catalogue";
import type { DialAbout, Rgb, Stop } from "../api/client";
import { ColorDial } from "./ColorDial";
import { followPointer } from "./drag";
import { NumberDial } from "./NumberDial";
import { type Point, PointsPaper } from "./PointsPaper";
import { gradientOf, isColor, type Join, pathThrough, reachOf } from "./stops";

interface StopsDialProps {
  about: DialAbout;
  value: Stop[];
  join: Join;
  onChange: (value: Stop[]) => void;
  onBegin?: () => void;
  onEnd?: () => void;
}

const MOST = 16;
const PLACE = { low: 0, high: 1, places: 3 };
const NUMBER: Partial<DialAbout> = {
  type: "number",
  scale: "linear",
  low: 0,
  high: 1,
  hard_low: -1000,
  hard_high: 1000,
  unit: "",
  ends: null,
};

/** What a gradient is called while it is carried to a ramp. */
export const GRADIENT = "application/x-nineglass-gradient";

/** Our own gradients: a click puts one in place of the stops; they can be carried to other ramps as well. */
function Gradients({ onChoose }: { onChoose: (stops: Stop[]) => void }) {
  const { gradients } = useCatalogue();
  return (
    <div className="dropdown dropdown-end">
      <button type="button" className="btn btn-xs btn-ghost" aria-haspopup="true" aria-label="Choose a gradient">
        gradients
      </button>
      <ul className="dropdown-content z-40 max-h-72 w-52 overflow-y-auto border border-base-content bg-base-100 p-1">
        {gradients.map(({ name, stops }) => (
          <li key={name}>
            <button
              type="button"
              className="flex w-full items-center justify-between gap-2 px-1 py-0.5 text-left hover:bg-base-200"
              draggable
              onDragStart={(e) => e.dataTransfer.setData(GRADIENT, name)}
              onClick={() => {
                onChoose(stops as Stop[]);
                (document.activeElement as HTMLElement | null)?.blur();
              }}
            >
              {name}
              <i
                className="h-4 w-20 shrink-0 border border-base-content"
                style={{ background: gradientOf(stops as Stop[]) }}
              />
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** Colours on a bar, or numbers on squared paper, with a handle for each stop; and the dials of the chosen one. */
export function StopsDial({ about, value, join, onChange, onBegin, onEnd }: StopsDialProps) {
  const [chosen, choose] = useState(0);
  const index = Math.min(chosen, value.length - 1);
  const stop = value[index];
  const set = (i: number, next: Stop) => {
    const low = value[i - 1]?.[0] ?? 0;
    const high = value[i + 1]?.[0] ?? 1;
    const place = Number(Math.min(Math.max(next[0], low), high).toFixed(4));
    onChange(value.map((old, k) => (k === i ? ([place, next[1]] as Stop) : old)));
  };
  const insert = (stop: Stop) => {
    if (value.length >= MOST) return;
    const at = value.filter((one) => one[0] <= stop[0]).length;
    onChange([...value.slice(0, at), stop, ...value.slice(at)]);
    choose(at);
  };
  const add = () => {
    const [before, next] = value[index + 1] ? [value[index], value[index + 1]] : [value[index - 1], value[index]];
    insert([(before[0] + next[0]) / 2, before[1]] as Stop);
  };
  const remove = (i: number) => {
    if (value.length <= 2) return;
    onChange(value.filter((_, k) => k !== i));
    choose(Math.max(0, i - 1));
  };
  const gesture = { onBegin, onEnd };
  const handles = { value, join, chosen: index, onChoose: choose, onSet: set, ...gesture };
  return (
    <div className="nodrag py-0.5" data-dial={about.name}>
      <div className="flex items-center justify-between">
        <span>{about.label}</span>
        <span className="flex gap-1">
          {isColor(stop) && <Gradients onChoose={onChange} />}
          <button
            type="button"
            className="btn btn-xs btn-square btn-ghost"
            aria-label="Remove this stop"
            disabled={value.length <= 2}
            onClick={() => remove(index)}
          >
            <Minus size={12} />
          </button>
          <button
            type="button"
            className="btn btn-xs btn-square btn-ghost"
            aria-label="Add a stop"
            disabled={value.length >= MOST}
            onClick={add}
          >
            <Plus size={12} />
          </button>
        </span>
      </div>
      {isColor(stop) ? (
        <Bar {...handles} />
      ) : (
        <NumberStops {...handles} label={about.label} onAdd={insert} onRemove={remove} />
      )}
      <NumberDial
        about={{
          ...about,
          ...NUMBER,
          label: "Place",
          name: "place",
          default: stop[0],
          help: "Where the stop is, 0 to 1",
        }}
        value={stop[0]}
        onChange={(v) => set(index, [v, stop[1]] as Stop)}
        {...gesture}
        compact
      />
      {isColor(stop) ? (
        <ColorDial
          about={{ ...about, label: "Colour" }}
          value={stop[1]}
          onChange={(rgb: Rgb) => set(index, [stop[0], rgb])}
          {...gesture}
        />
      ) : (
        <NumberDial
          about={{ ...about, ...NUMBER, label: "Value", name: "value", default: 0, help: "What the ramp gives there" }}
          value={stop[1]}
          onChange={(v) => set(index, [stop[0], v])}
          {...gesture}
          compact
        />
      )}
    </div>
  );
}

interface HandlesProps {
  value: Stop[];
  join: Join;
  chosen: number;
  onChoose: (i: number) => void;
  onSet: (i: number, stop: Stop) => void;
  onBegin?: () => void;
  onEnd?: () => void;
}

/** Colours along a bar. */
function Bar({ value, join, chosen, onChoose, onSet, onBegin, onEnd }: HandlesProps) {
  const bar = useRef<HTMLDivElement>(null);
  const drag = (i: number) => (event: PointerEvent<HTMLButtonElement>) => {
    const box = bar.current?.getBoundingClientRect();
    if (!box) return;
    event.stopPropagation();
    onChoose(i);
    onBegin?.();
    followPointer(event, (e) => onSet(i, [(e.clientX - box.left) / box.width, value[i][1]] as Stop), onEnd);
  };
  return (
    <div
      ref={bar}
      className="relative mx-1 mb-3 h-4 border border-base-300"
      style={{ background: gradientOf(value, join) }}
    >
      {value.map((s, i) => (
        <button
          type="button"
          // biome-ignore lint/suspicious/noArrayIndexKey: stops have no name but their place in the list
          key={i}
          aria-label={`Stop ${i + 1} of ${value.length}`}
          aria-pressed={i === chosen}
          className={`absolute top-2 h-4 w-3 -translate-x-1/2 cursor-ew-resize border border-base-content ${i === chosen ? "bg-marker" : "bg-base-100"}`}
          style={{ left: `${s[0] * 100}%` }}
          onPointerDown={drag(i)}
          onFocus={() => onChoose(i)}
        />
      ))}
    </div>
  );
}

interface NumberStopsProps extends HandlesProps {
  label: string;
  onAdd: (stop: Stop) => void;
  onRemove: (i: number) => void;
}

/** Numbers on squared paper; what it shows stays the same while a point is dragged. */
function NumberStops({ value, join, label, onSet, onBegin, onEnd, ...how }: NumberStopsProps) {
  const points = value as Point[];
  const [held, hold] = useState<{ low: number; high: number }>();
  const up = { ...(held ?? reachOf(points)), places: 3 };
  return (
    <>
      <PointsPaper
        points={points}
        across={PLACE}
        up={up}
        label={label}
        lines={[0.25, 0.5, 0.75]}
        path={(x, y) => pathThrough(points, join, x, y)}
        onSet={onSet}
        onBegin={() => {
          hold(reachOf(points));
          onBegin?.();
        }}
        onEnd={() => {
          hold(undefined);
          onEnd?.();
        }}
        {...how}
      />
      <div className="ends">
        <span>0, up to {up.high}</span>
        <span>1</span>
      </div>
    </>
  );
}
