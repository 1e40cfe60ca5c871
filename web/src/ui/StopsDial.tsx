import { Minus, Plus } from "lucide-react";
import { type PointerEvent, useRef, useState } from "react";
import { useCatalogue } from "../api/catalogue";
import type { ColorStop, DialAbout, Rgb, Stop } from "../api/client";
import { ColorDial } from "./ColorDial";
import { toHex } from "./colors";
import { followPointer } from "./drag";
import { NumberDial } from "./NumberDial";

interface StopsDialProps {
  about: DialAbout;
  value: Stop[];
  onChange: (value: Stop[]) => void;
  onBegin?: () => void;
  onEnd?: () => void;
}

const MOST = 16;
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

const isColor = (stop: Stop): stop is ColorStop => Array.isArray(stop[1]);
const paint = (stop: Stop) => (isColor(stop) ? toHex(stop[1]) : toHex([stop[1], stop[1], stop[1]]));

/** Our own gradients, to put in place of the stops. */
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
              onClick={() => {
                onChoose(stops as Stop[]);
                (document.activeElement as HTMLElement | null)?.blur();
              }}
            >
              {name}
              <i
                className="h-4 w-20 shrink-0 border border-base-content"
                style={{
                  background: `linear-gradient(90deg, ${stops.map((s) => `${paint(s as Stop)} ${s[0] * 100}%`).join(", ")})`,
                }}
              />
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** A bar with a handle for each stop, and the dials of the chosen one. */
export function StopsDial({ about, value, onChange, onBegin, onEnd }: StopsDialProps) {
  const [chosen, choose] = useState(0);
  const bar = useRef<HTMLDivElement>(null);
  const index = Math.min(chosen, value.length - 1);
  const stop = value[index];
  const set = (i: number, next: Stop) => {
    const low = value[i - 1]?.[0] ?? 0;
    const high = value[i + 1]?.[0] ?? 1;
    const place = Number(Math.min(Math.max(next[0], low), high).toFixed(4));
    onChange(value.map((old, k) => (k === i ? ([place, next[1]] as Stop) : old)));
  };
  const drag = (i: number) => (event: PointerEvent<HTMLButtonElement>) => {
    const box = bar.current?.getBoundingClientRect();
    if (!box) return;
    event.stopPropagation();
    choose(i);
    onBegin?.();
    followPointer(event, (e) => set(i, [(e.clientX - box.left) / box.width, value[i][1]] as Stop), onEnd);
  };
  const add = () => {
    const next = value[index + 1] ?? value[index];
    const before = value[index + 1] ? value[index] : value[index - 1];
    const between = [(before[0] + next[0]) / 2, before[1]] as Stop;
    const at = value[index + 1] ? index + 1 : index;
    onChange([...value.slice(0, at), between, ...value.slice(at)]);
    choose(at);
  };
  const remove = () => {
    onChange(value.filter((_, i) => i !== index));
    choose(Math.max(0, index - 1));
  };
  const gradient = value.map((s) => `${paint(s)} ${s[0] * 100}%`).join(", ");
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
            onClick={remove}
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
      <div
        ref={bar}
        className="relative mx-1 mb-3 h-4 border border-base-300"
        style={{ background: `linear-gradient(90deg, ${gradient})` }}
      >
        {value.map((s, i) => (
          <button
            type="button"
            // biome-ignore lint/suspicious/noArrayIndexKey: stops have no name but their place in the list
            key={i}
            aria-label={`Stop ${i + 1} of ${value.length}`}
            aria-pressed={i === index}
            className={`absolute top-2 h-4 w-3 -translate-x-1/2 cursor-ew-resize border border-base-content ${i === index ? "bg-marker" : "bg-base-100"}`}
            style={{ left: `${s[0] * 100}%` }}
            onPointerDown={drag(i)}
            onFocus={() => choose(i)}
          />
        ))}
      </div>
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
        onBegin={onBegin}
        onEnd={onEnd}
        compact
      />
      {isColor(stop) ? (
        <ColorDial
          about={{ ...about, label: "Colour" }}
          value={stop[1]}
          onChange={(rgb: Rgb) => set(index, [stop[0], rgb])}
          onBegin={onBegin}
          onEnd={onEnd}
        />
      ) : (
        <NumberDial
          about={{ ...about, ...NUMBER, label: "Value", name: "value", default: 0, help: "What the ramp gives there" }}
          value={stop[1]}
          onChange={(v) => set(index, [stop[0], v])}
          onBegin={onBegin}
          onEnd={onEnd}
          compact
        />
      )}
    </div>
  );
}
