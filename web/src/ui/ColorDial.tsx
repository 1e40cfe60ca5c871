import { useState } from "react";
import { HexColorPicker } from "react-colorful";
import type { DialAbout, Rgb } from "../api/client";
import { fromHex, toHex } from "./colors";
import { useDrawnGesture } from "./drag";
import { type Driven, NumberDial } from "./NumberDial";

interface ColorDialProps {
  about: DialAbout;
  value: Rgb;
  onChange: (value: Rgb) => void;
  onBegin?: () => void;
  onEnd?: () => void;
  driven?: Driven;
  children?: React.ReactNode;
}

const CHANNELS = ["Red", "Green", "Blue"];

function channelAbout(about: DialAbout, label: string): DialAbout {
  const ends: [string, string] = ["none", "full"];
  return {
    ...about,
    type: "number",
    label,
    name: label.toLowerCase(),
    low: 0,
    high: 1,
    ends,
    unit: "",
    default: 1,
    help: `${label} channel, linear light`,
  };
}

export function ColorDial({ about, value, onChange, onBegin, onEnd, driven, children }: ColorDialProps) {
  const [isOpen, setOpen] = useState(false);
  const [typed, setTyped] = useState<string>();
  const press = useDrawnGesture(onBegin, onEnd);
  const shown = toHex(value);
  const take = (text: string) => {
    const rgb = fromHex(text);
    if (rgb) onChange(rgb);
    setTyped(undefined);
  };
  return (
    <div className="py-0.5" title={about.help} data-dial={about.name}>
      <div className="flex items-center justify-between gap-2">
        <span className="flex items-center gap-1 truncate">
          {children}
          {about.label}
        </span>
        {!driven && (
          <button
            type="button"
            className="nodrag figures flex min-h-6 items-center gap-1.5 hover:underline"
            aria-expanded={isOpen}
            aria-label={`${about.label} ${shown}`}
            onClick={() => setOpen(!isOpen)}
          >
            <span className="inline-block h-4 w-8 border border-current" style={{ background: shown }} />
            {shown}
          </button>
        )}
      </div>
      {driven && (
        <button
          type="button"
          className="nodrag ends cursor-pointer hover:underline"
          aria-label={`${about.label}, driven by ${driven.by}`}
          onClick={driven.onGo}
          disabled={!driven.onGo}
        >
          ← {driven.by}
        </button>
      )}
      {isOpen && !driven && (
        <div className="nodrag nowheel mt-1 mb-2 border-l-2 border-base-300 pl-2">
          <div onPointerDown={press}>
            <HexColorPicker style={{ width: "100%", height: 110 }} color={shown} onChange={(hex) => take(hex)} />
          </div>
          <label className="mt-1 flex items-center justify-between">
            sRGB
            <input
              className="figures w-20 border-b border-current bg-transparent text-right"
              value={typed ?? shown}
              onChange={(e) => setTyped(e.target.value)}
              onBlur={() => typed !== undefined && take(typed)}
              onKeyDown={(e) => {
                e.stopPropagation();
                if (e.key === "Enter") take(typed ?? shown);
              }}
            />
          </label>
          {CHANNELS.map((label, i) => (
            <NumberDial
              key={label}
              about={channelAbout(about, label)}
              value={value[i]}
              onBegin={onBegin}
              onEnd={onEnd}
              onChange={(v) => onChange(value.map((old, k) => (k === i ? v : old)) as Rgb)}
              compact
            />
          ))}
        </div>
      )}
    </div>
  );
}
