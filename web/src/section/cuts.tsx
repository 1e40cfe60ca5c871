/** How the bands look in the cut: line weights and hatching from the real values. */
import type { Reading } from "../bench/live";
import { say } from "../ui/numbers";

const WIDE = 280;

/** The boundary: its line is as rugged as the surface is rough. */
export function InterfaceCut({ section }: { section?: Reading["section"] }) {
  const height = (section?.roughness ?? 0) * 9;
  const points = Array.from({ length: 71 }, (_, i) => {
    const jitter = Math.sin(i * 12.9898) * 43758.5453;
    return `${(i / 70) * WIDE},${12 + (jitter - Math.floor(jitter) - 0.5) * 2 * height}`;
  });
  return (
    <svg className="block h-6 w-full" viewBox={`0 0 ${WIDE} 24`} preserveAspectRatio="none" role="img">
      <title>{`roughness ${say(section?.roughness ?? 0)}`}</title>
      <polyline
        points={points.join(" ")}
        fill="none"
        stroke="currentColor"
        strokeWidth="1.4"
        vectorEffect="non-scaling-stroke"
      />
    </svg>
  );
}

/** The matter: white light as it goes down to the depth, hatched as a cut through glass is. */
export function InteriorCut({ section }: { section?: Reading["section"] }) {
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
      </svg>
      <div className="absolute top-1.5 right-3 bottom-1.5 w-2 border-y border-r border-current" />
      <span className="figures absolute top-1/2 right-7 -translate-y-1/2 bg-[#f1f1f0d9] px-1">
        {say(section?.depth_cm ?? 0)} cm
      </span>
    </div>
  );
}

/** A metal: close hatching under a line as rugged as the surface. */
export function MetalCut({ section }: { section?: Reading["section"] }) {
  return (
    <div>
      <InterfaceCut section={section} />
      <div className="h-10 bg-[repeating-linear-gradient(45deg,currentColor_0_1px,transparent_1px_4px)] opacity-60" />
    </div>
  );
}

/** Body colour: dots in the surface. */
export function BodyCut() {
  return <div className="h-6 bg-[radial-gradient(circle,currentColor_1px,transparent_1.4px)] bg-[length:6px_6px]" />;
}

export const CUTS: Record<string, React.ComponentType<{ section?: Reading["section"] }>> = {
  interface: InterfaceCut,
  interior: InteriorCut,
  metal: MetalCut,
  body: BodyCut,
};
