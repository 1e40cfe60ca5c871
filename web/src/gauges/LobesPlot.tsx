import type { StrandPlot } from "../api/client";

const ACROSS = 300;
const DOWN = 130;
const MIDDLE = 62;
const RADIUS = 20;
const REACH = 38;
const LEFT = 150;
const RIGHT = 284;
const FLOOR = 108;
const TOP = 12;
const TICKS = [-90, -45, 0, 45, 90];
/** One for each lobe, so that they are told apart without colour. */
const STROKES = ["", "4 2", "1 2.5"];

/** A strand cut across, lit from the upper left, with where it sends light about itself; beside it where along itself. */
export function LobesPlot({ lobes: strand }: { lobes: StrandPlot }) {
  const from = strand.along_deg[0];
  const span = strand.along_deg[strand.along_deg.length - 1] - from;
  const x = (angle: number) => LEFT + ((angle - from) / span) * (RIGHT - LEFT);
  return (
    <figure className="flex h-full flex-col" data-testid="lobes">
      <svg className="min-h-24 grow" viewBox={`0 0 ${ACROSS} ${DOWN}`} role="img" aria-label={strand.caption}>
        <defs>
          <linearGradient id="lit-strand">
            {strand.lit.map((color, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: places across the strand
              <stop key={i} offset={i / (strand.lit.length - 1)} stopColor={color} />
            ))}
          </linearGradient>
        </defs>
        <circle cx={MIDDLE} cy={MIDDLE} r={RADIUS} fill="url(#lit-strand)" stroke="currentColor" strokeWidth={0.8} />
        <path d={`M4 ${MIDDLE}H${MIDDLE - RADIUS - 2}m-5 -3l5 3l-5 3`} fill="none" stroke="currentColor" />
        {strand.lobes.map((lobe, i) => (
          <path
            key={lobe.label}
            d={about(lobe.around)}
            fill="none"
            stroke="currentColor"
            strokeWidth={1.2}
            strokeDasharray={STROKES[i]}
          />
        ))}
        <path d={`M${LEFT} ${FLOOR}H${RIGHT}M${x(0)} ${FLOOR}V${TOP}`} stroke="var(--hair)" />
        {TICKS.map((angle) => (
          <text key={angle} x={x(angle)} y={FLOOR + 11} fontSize={8} fill="currentColor" textAnchor="middle">
            {angle}°
          </text>
        ))}
        <text x={LEFT} y={FLOOR + 20} fontSize={8} fill="currentColor">
          to the root
        </text>
        <text x={RIGHT} y={FLOOR + 20} fontSize={8} fill="currentColor" textAnchor="end">
          to the tip
        </text>
        {strand.lobes.map((lobe, i) => (
          <polyline
            key={lobe.label}
            points={lobe.along
              .map((v, k) => `${x(strand.along_deg[k]).toFixed(1)},${(FLOOR - v * (FLOOR - TOP)).toFixed(1)}`)
              .join(" ")}
            fill="none"
            stroke="currentColor"
            strokeWidth={1.2}
            strokeDasharray={STROKES[i]}
          />
        ))}
      </svg>
      <figcaption className="text-[var(--mute)]">
        {strand.lobes.map((lobe, i) => `${["——", "– –", "···"][i]} ${lobe.label}`).join("   ")}. {strand.caption}
        {strand.varies && " Driven dials: half way along a strand."}
      </figcaption>
    </figure>
  );
}

/** A closed curve about the strand: light comes from the left, so that 0 degrees, straight back, is to the left. */
function about(values: number[]): string {
  const points = values.map((share, i) => {
    const angle = (2 * Math.PI * i) / (values.length - 1);
    const reach = RADIUS + share * REACH;
    return `${(MIDDLE + reach * Math.cos(angle)).toFixed(1)},${(MIDDLE + reach * Math.sin(angle)).toFixed(1)}`;
  });
  return `M${points.join("L")}Z`;
}
