import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import type { DialAbout } from "../api/client";
import { allowed, parse, placeOf, rangeWords, say, spanOf, valueAt, withUnit } from "./numbers";

export interface Driven {
  /** The name of what drives it. */
  by: string;
  /** Go there. */
  onGo?: () => void;
  low?: number;
  high?: number;
}

interface NumberDialProps {
  about: DialAbout;
  value: number;
  onChange: (value: number) => void;
  onBegin?: () => void;
  onEnd?: () => void;
  /** What drives it instead, and the range that arrives. */
  driven?: Driven;
  /** Without track and ends until it is reached for. */
  compact?: boolean;
  /** Before the label: the notch where a wire ends. */
  children?: React.ReactNode;
}

const FINE = 0.001;
const COARSE = 0.01;

export function NumberDial({ about, value, onChange, onBegin, onEnd, driven, compact, children }: NumberDialProps) {
  const [typing, setTyping] = useState<string>();
  const [refused, setRefused] = useState("");
  const track = useRef<HTMLDivElement>(null);
  const span = spanOf(about, value);
  const place = placeOf(about, value, span);

  const drag = (event: PointerEvent<HTMLDivElement>) => {
    if (driven || event.button !== 0) return;
    event.preventDefault();
    event.stopPropagation();
    const target = event.currentTarget;
    target.focus();
    target.setPointerCapture(event.pointerId);
    const wide = (track.current ?? target).getBoundingClientRect();
    const fixed = span;
    const along = (x: number) => (x - wide.left) / wide.width;
    const onTrack = target === track.current;
    const from = event.clientX;
    onBegin?.();
    if (onTrack) onChange(valueAt(about, along(from), fixed));
    const move = (e: globalThis.PointerEvent) => {
      const at = onTrack ? along(e.clientX) : place + (e.clientX - from) / 200;
      onChange(valueAt(about, at, fixed));
    };
    const up = () => {
      target.removeEventListener("pointermove", move);
      target.removeEventListener("pointerup", up);
      target.removeEventListener("pointercancel", up);
      onEnd?.();
    };
    target.addEventListener("pointermove", move);
    target.addEventListener("pointerup", up);
    target.addEventListener("pointercancel", up);
  };

  const step = (by: number) => onChange(valueAt(about, place + by, span));
  const keys = (event: KeyboardEvent) => {
    if (driven || event.ctrlKey || event.metaKey || event.altKey) return;
    const size = event.shiftKey ? FINE : COARSE;
    const steps: Record<string, () => void> = {
      ArrowRight: () => step(size),
      ArrowUp: () => step(size),
      ArrowLeft: () => step(-size),
      ArrowDown: () => step(-size),
      PageUp: () => step(0.1),
      PageDown: () => step(-0.1),
      Home: () => onChange(about.low ?? span.low),
      End: () => onChange(about.high ?? span.high),
      Enter: () => setTyping(say(value)),
    };
    const act = steps[event.key] ?? (/^[\d.+-]$/.test(event.key) ? () => setTyping(event.key) : undefined);
    if (!act) return;
    event.preventDefault();
    event.stopPropagation();
    act();
  };

  const take = (text: string) => {
    const given = parse(text, about.unit);
    if (given === undefined) {
      setRefused(`Type a number${about.unit ? ` in ${about.unit}` : ""}, or a sum of numbers.`);
      return;
    }
    const kept = allowed(about, given);
    setRefused(
      kept === given ? "" : `Allowed: ${say(about.hard_low ?? 0)} to ${withUnit(about.hard_high ?? 0, about.unit)}.`,
    );
    setTyping(undefined);
    onChange(kept);
  };

  const arriving = driven?.low === undefined ? "driven" : `driven ${rangeWords(driven, about.unit)}`;
  const words = driven ? arriving : withUnit(value, about.unit);
  return (
    <div className="relative pb-0.5" title={about.help} data-dial={about.name}>
      <div className="flex items-center justify-between gap-2">
        <span className="flex items-center gap-1 truncate">
          {children}
          {about.label}
        </span>
        {typing === undefined ? (
          <button
            type="button"
            className={`figures min-h-6 min-w-6 shrink-0 text-right ${driven ? "cursor-default" : "cursor-text hover:underline"}`}
            disabled={!!driven}
            title={driven ? words : "Click to type a number, with a unit or as a sum; drag sideways to change it"}
            onClick={() => setTyping(say(value))}
            onDoubleClick={() => onChange(about.default as number)}
          >
            {words}
          </button>
        ) : (
          <input
            className="figures w-24 border-b border-current bg-transparent text-right outline-none"
            aria-label={`${about.label}, typed`}
            value={typing}
            // biome-ignore lint/a11y/noAutofocus: the person has just asked to type here
            autoFocus
            onFocus={(e) => typing.length > 1 && e.target.select()}
            onChange={(e) => setTyping(e.target.value)}
            onBlur={() => typing !== undefined && take(typing)}
            onKeyDown={(e) => {
              e.stopPropagation();
              if (e.key === "Enter") take(typing);
              if (e.key === "Escape") setTyping(undefined);
            }}
          />
        )}
      </div>
      {refused && <p role="alert">{refused}</p>}
      <div
        ref={track}
        className="track nodrag nowheel"
        role="slider"
        tabIndex={driven ? -1 : 0}
        aria-label={about.label}
        aria-valuemin={Math.min(span.low, value)}
        aria-valuemax={span.high}
        aria-valuenow={value}
        aria-valuetext={words}
        aria-disabled={!!driven}
        onPointerDown={drag}
        onKeyDown={keys}
        onDoubleClick={() => !driven && onChange(about.default as number)}
        onWheel={(e) => document.activeElement === e.currentTarget && !driven && step(e.deltaY < 0 ? COARSE : -COARSE)}
      >
        {about.scale === "log" && <Decades span={span} about={about} />}
        {driven ? (
          [driven.low, driven.high].map(
            (v, i) =>
              v !== undefined && <i key={i ? "high" : "low"} className="driven" style={at(placeOf(about, v, span))} />,
          )
        ) : (
          <i style={at(place)} />
        )}
      </div>
      {driven?.onGo && (
        <button
          type="button"
          className="nodrag ends cursor-pointer hover:underline"
          aria-label={`from ${driven.by}`}
          title="Go there"
          onClick={driven.onGo}
        >
          ← {driven.by}
        </button>
      )}
      {!compact && !driven && about.ends && (
        <div className="ends">
          <span>{about.ends[0]}</span>
          <span>{about.ends[1]}</span>
        </div>
      )}
    </div>
  );
}

const at = (place: number) => ({ left: `${Math.min(Math.max(place, 0), 1) * 100}%` });

function Decades({ span, about }: { span: { low: number; high: number }; about: DialAbout }) {
  const first = Math.ceil(Math.log10(span.low) + 0.05);
  const count = Math.max(0, Math.floor(Math.log10(span.high) - 0.05) - first + 1);
  return Array.from({ length: count }, (_, i) => 10 ** (first + i)).map((decade) => (
    <u key={decade} style={at(placeOf(about, decade, span))} />
  ));
}
