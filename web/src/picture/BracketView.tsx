import { setDials } from "../bench/documents";
import { useLive } from "../bench/live";
import { say, withUnit } from "../ui/numbers";
import type { DialSpot } from "../ui/pointed";
import { narrowed, valuesAcross } from "./bracket";

const ROUNDS = 3;

interface BracketViewProps {
  onBracket: (spot: DialSpot, values: number[], walk: number[]) => void;
  onLeave: () => void;
}

/** Seven small pictures across a dial, in the picture's place; choosing one narrows the range, the third is taken. */
export function BracketView({ onBracket, onLeave }: BracketViewProps) {
  const bracket = useLive((s) => s.bracket);
  if (!bracket) return null;
  const { of, about } = bracket.spot;
  const take = (value: number) => {
    setDials(of, { [about.name]: value });
    onLeave();
  };
  const choose = (at: number) => {
    const value = bracket.values[at];
    const walk = [...bracket.walk, value];
    const [low, high] = narrowed(bracket.values, at);
    if (walk.length >= ROUNDS || low === high) take(value);
    else onBracket(bracket.spot, valuesAcross(about, low, high), walk);
  };
  return (
    <div
      className="absolute inset-0 flex flex-col bg-[var(--mat)] text-[var(--mat-ink)]"
      role="dialog"
      aria-label={`Bracket of ${about.label}`}
      onKeyDown={(e) => {
        if (e.key === "Escape") onLeave();
        if (/^[1-7]$/.test(e.key)) choose(Number(e.key) - 1);
        e.stopPropagation();
      }}
    >
      <p className="flex items-baseline gap-2 px-2 py-1">
        <b>{about.label}</b>
        <span>
          round {bracket.walk.length + 1} of {ROUNDS}: choose one
        </span>
        <button type="button" className="ml-auto hover:underline" onClick={onLeave}>
          leave <kbd className="key">Esc</kbd>
        </button>
      </p>
      <div className="grid min-h-0 grow grid-cols-3 content-start gap-1.5 overflow-y-auto px-2">
        {bracket.values.map((value, i) => (
          <button
            type="button"
            // biome-ignore lint/suspicious/noArrayIndexKey: places in a strip have no name but their order
            key={i}
            className="relative aspect-square border border-black bg-[#555]"
            aria-label={`${about.label} ${withUnit(value, about.unit)}`}
            // biome-ignore lint/a11y/noAutofocus: the strip was just asked for, and is chosen from by keys as well
            autoFocus={i === 0}
            onClick={() => choose(i)}
          >
            {bracket.pictures[i] && <img src={bracket.pictures[i]} alt="" className="h-full w-full object-cover" />}
            <span className="figures absolute bottom-0 left-0 bg-[#000b] px-1 text-white">
              {i + 1}: {withUnit(value, about.unit)}
            </span>
          </button>
        ))}
        <div className="self-center px-1 text-[12px]">
          <p>{bracket.readable ? "All seven are even; choose at any time." : "Rendering evenly ..."}</p>
          {bracket.readable && (
            <p className="figures">
              noise left: {say(100 * Number(Math.max(...bracket.noise.map(Number)).toPrecision(2)))} %
            </p>
          )}
          {bracket.walk.length > 0 && <p className="figures">walk: {bracket.walk.map((v) => say(v)).join(" → ")}</p>}
        </div>
      </div>
    </div>
  );
}
