import { useId } from "react";
import type { BandCut, Kind, Reading } from "../api/client";
/** How the bands look in the cut: line weights, hatching and colours from the real values. */
import { say } from "../ui/numbers";

const WIDE = 280;
const FLAKES_DRAWN = 19;

interface CutProps {
  section?: Reading["section"];
  cut?: BandCut;
}

/** A boundary: its line is as rugged as the surface is rough. */
export function RuggedLine({ roughness, weight = 1.4 }: { roughness: number; weight?: number }) {
  const points = Array.from({ length: 71 }, (_, i) => {
    const jitter = Math.sin(i * 12.9898) * 43758.5453;
    return `${(i / 70) * WIDE},${8 + (jitter - Math.floor(jitter) - 0.5) * 14 * roughness}`;
  });
  return (
    <svg className="block h-4 w-full" viewBox={`0 0 ${WIDE} 16`} preserveAspectRatio="none" role="img">
      <title>{`roughness ${say(roughness)}`}</title>
      <polyline
        points={points.join(" ")}
        fill="none"
        stroke="currentColor"
        strokeWidth={weight}
        vectorEffect="non-scaling-stroke"
      />
    </svg>
  );
}

function BoundaryCut({ cut }: CutProps) {
  return <RuggedLine roughness={cut?.roughness ?? 0} />;
}

/** A skin: a thin strip in its own colours, from face-on at the left to the rim at the right. */
function SkinCut({ cut }: CutProps) {
  const fill = cut?.colors.length ? `linear-gradient(90deg, ${cut.colors.join(", ")})` : undefined;
  return <div className="mx-0 h-2 border-y border-base-content" style={{ background: fill }} />;
}

/** A varnish: its top, and its colour beneath it. */
function VarnishCut({ cut }: CutProps) {
  return (
    <div>
      <RuggedLine roughness={cut?.roughness ?? 0} />
      <div className="-mt-2 h-6 border-b border-base-300 opacity-80" style={{ background: cut?.colors[0] }} />
    </div>
  );
}

/** Fibres that stand up. */
function FibresCut() {
  return (
    <div className="h-4 bg-[repeating-linear-gradient(78deg,currentColor_0_1px,transparent_1px_5px)] opacity-60" />
  );
}

/** Two columns. */
function ColumnsCut() {
  return (
    <div className="grid h-6 grid-cols-2 text-center text-[11px] leading-6">
      <span className="border-r border-base-content bg-[repeating-linear-gradient(45deg,#0000_0_5px,#8883_5px_6px)]">
        first
      </span>
      <span className="bg-[repeating-linear-gradient(-45deg,#0000_0_5px,#8883_5px_6px)]">second</span>
    </div>
  );
}

const DEEP = 80;
const FINEST = 2.5;
const MOST_DOTS = 4000;

/** Multiples of these are spread evenly over a square (Roberts 2018, the R2 sequence). */
const SPREAD = [0.7548776662, 0.5698402909];

/** Where light is scattered: dots as far apart as its mean free path is long beside the depth. */
function Scatterings({ section }: CutProps) {
  const often = section?.scatterings ?? 0;
  if (often < 0.05) return null;
  const apart = Math.max(DEEP / often, FINEST);
  const count = Math.min(Math.ceil((WIDE * DEEP) / apart ** 2), MOST_DOTS);
  const dots = Array.from({ length: count }, (_, i) => {
    const [x, y] = SPREAD.map((share) => ((i + 1) * share) % 1);
    return `M${(x * WIDE).toFixed(1)} ${(y * DEEP).toFixed(1)}h0`;
  }).join("");
  return (
    <svg x="0" width="100%" height="100%" viewBox={`0 0 ${WIDE} ${DEEP}`} preserveAspectRatio="none" role="img">
      <title>{`scattered ${say(often)} times on the way down`}</title>
      <path d={dots} stroke="#1d1d1d99" strokeWidth={3} strokeLinecap="round" vectorEffect="non-scaling-stroke" />
      <path
        d={dots}
        stroke={section?.scattered}
        strokeWidth={2}
        strokeLinecap="round"
        vectorEffect="non-scaling-stroke"
      />
    </svg>
  );
}

/** The matter: white light as it goes down to the depth, hatched as a cut through glass is. */
function MatterCut({ section }: CutProps) {
  const cut = section?.cut ?? ["#ffffff", "#ffffff"];
  const fill = `linear-gradient(180deg, ${cut.join(", ")})`;
  return (
    <div className="relative h-20 text-[#1d1d1d]" style={{ background: fill }}>
      <svg className="absolute inset-0 h-full w-full" aria-hidden="true">
        <defs>
          <pattern id="hatch" width="7" height="7" patternTransform="rotate(-60)" patternUnits="userSpaceOnUse">
            <path d="M0 0V7" stroke="#0000002e" />
          </pattern>
        </defs>
        <rect width="100%" height="100%" fill="url(#hatch)" />
        <Scatterings section={section} />
      </svg>
      <div className="absolute top-1.5 right-3 bottom-1.5 w-2 border-y border-r border-current" />
      <span className="figures absolute top-1/2 right-7 -translate-y-1/2 bg-[#f1f1f0d9] px-1">
        {say(section?.depth_cm ?? 0)} cm
      </span>
    </div>
  );
}

/** A plate: close hatching in its colour under a line as rugged as the surface. */
function PlateCut({ cut }: CutProps) {
  return (
    <div>
      <RuggedLine roughness={cut?.roughness ?? 0} weight={2} />
      <div className="-mt-2 h-8 text-[#1d1d1d]" style={{ background: cut?.colors[0] ?? "#999" }}>
        <div className="h-full bg-[repeating-linear-gradient(45deg,currentColor_0_1px,transparent_1px_4px)] opacity-50" />
      </div>
    </div>
  );
}

/** Grains: dots in its own colour. */
function GrainsCut({ cut }: CutProps) {
  return (
    <div className="h-7 text-[#1d1d1d]" style={{ background: cut?.colors[0] }}>
      <div className="h-full bg-[radial-gradient(circle,currentColor_1px,transparent_1.4px)] bg-[length:6px_6px] opacity-60" />
    </div>
  );
}

/** A glow: rays that leave the surface, in its colour. */
function RaysCut({ cut }: CutProps) {
  return (
    <div className="h-4 overflow-hidden text-base-content" style={{ background: cut?.colors[0] }}>
      <div className="h-full bg-[repeating-linear-gradient(90deg,currentColor_0_1px,transparent_1px_9px)] opacity-70 [mask-image:linear-gradient(0deg,#000,#0000)]" />
    </div>
  );
}

/** A strand cut along, from its root at the left to its tip: scales on its sides, its colour within. */
function StrandCut({ cut }: CutProps) {
  const colors = cut?.colors.length ? cut.colors : ["#888888", "#888888"];
  const along = useId();
  const outline = "M0 4 L262 11 Q276 14 262 17 L0 24 Z";
  const scales = Array.from({ length: 21 }, (_, i) => {
    const x = 6 + i * 12;
    const half = 10 - (x / 262) * 7;
    return `M${x} ${14 - half}q5 -2.4 9 -1.2M${x} ${14 + half}q5 2.4 9 1.2`;
  }).join("");
  return (
    <svg
      className="block h-7 w-full text-base-content"
      viewBox={`0 0 ${WIDE} 28`}
      preserveAspectRatio="none"
      role="img"
    >
      <title>a strand cut along, from root to tip</title>
      <defs>
        <linearGradient id={along}>
          {colors.map((color, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: places along the strand
            <stop key={i} offset={i / (colors.length - 1)} stopColor={color} />
          ))}
        </linearGradient>
      </defs>
      <path d={outline} fill={`url(#${along})`} stroke="currentColor" vectorEffect="non-scaling-stroke" />
      <path d={scales} fill="none" stroke="currentColor" strokeWidth={0.8} vectorEffect="non-scaling-stroke" />
      <path d="M0 14 H262" stroke="#8887" strokeDasharray="3 4" vectorEffect="non-scaling-stroke" />
    </svg>
  );
}

/** Platelets that float side by side, each with its lean and colour. */
function FlakesCut({ cut }: CutProps) {
  const colors = cut?.colors.length ? cut.colors : ["#cccccc"];
  return (
    <svg
      className="block h-5 w-full text-base-content"
      viewBox={`0 0 ${WIDE} 20`}
      preserveAspectRatio="none"
      role="img"
    >
      <title>flakes, as they mirror face-on</title>
      {Array.from({ length: FLAKES_DRAWN }, (_, i) => {
        const [x, y] = [(i + 0.5) * (WIDE / FLAKES_DRAWN), 4 + ((i * 7) % 12)];
        return (
          <rect
            // biome-ignore lint/suspicious/noArrayIndexKey: places along the section
            key={i}
            x={x - 6}
            y={y - 1.5}
            width={12}
            height={3}
            fill={colors[i % colors.length]}
            stroke="currentColor"
            strokeWidth={0.6}
            vectorEffect="non-scaling-stroke"
            transform={`rotate(${((i * 53) % 37) - 18} ${x} ${y})`}
          />
        );
      })}
    </svg>
  );
}

type CutStyle = NonNullable<Kind["rules"]["cut"]>["style"];

/** How a band is drawn, by the style that its description names. */
export const CUTS: Record<CutStyle, React.ComponentType<CutProps>> = {
  fibres: FibresCut,
  skin: SkinCut,
  varnish: VarnishCut,
  columns: ColumnsCut,
  boundary: BoundaryCut,
  matter: MatterCut,
  plate: PlateCut,
  grains: GrainsCut,
  rays: RaysCut,
  strand: StrandCut,
  flakes: FlakesCut,
};
