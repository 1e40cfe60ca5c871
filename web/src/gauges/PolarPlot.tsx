import type { Polar } from "../api/client";

const ACROSS = 260;
const DOWN = 130;
const MARGIN = 14;

type Point = [number, number];

/** Where light goes, as a closed curve about the place where it was scattered; it comes from the left. */
export function PolarPlot({ polar }: { polar: Polar }) {
  const { middle, outlines } = drawn(polar);
  return (
    <figure className="flex h-full flex-col" data-testid="polar">
      <svg className="min-h-24 grow" viewBox={`0 0 ${ACROSS} ${DOWN}`} role="img" aria-label={polar.caption}>
        <line x1={0} x2={ACROSS} y1={DOWN / 2} y2={DOWN / 2} stroke="var(--hair)" />
        <text x={2} y={DOWN - 4} fontSize={8} fill="currentColor">
          back
        </text>
        <text x={ACROSS - 2} y={DOWN - 4} fontSize={8} fill="currentColor" textAnchor="end">
          onward
        </text>
        {polar.curves.map((curve, i) => (
          <path
            key={curve.label}
            d={outlines[i]}
            fill="none"
            stroke="currentColor"
            strokeWidth={1.4}
            strokeDasharray={i ? "1 3" : ""}
          />
        ))}
        <circle cx={middle} cy={DOWN / 2} r={2} fill="currentColor" />
      </svg>
      <figcaption className="text-[var(--mute)]">
        {polar.curves.map((curve, i) => `${i ? "···" : "——"} ${curve.label}`).join("   ")}. {polar.caption}
      </figcaption>
    </figure>
  );
}

/** Points along a curve: onward and across, in shares of the largest. */
function points(values: number[]): Point[] {
  return values.map((share, i) => {
    const angle = (Math.PI * i) / (values.length - 1);
    return [share * Math.cos(angle), share * Math.sin(angle)];
  });
}

/** The curves as large as there is room for, and where across the scattering stands. */
function drawn(polar: Polar) {
  const curves = polar.curves.map((curve) => points(curve.values));
  const along = curves.flat().map(([x]) => x);
  const [back, onward] = [Math.min(...along), Math.max(...along)];
  const aside = Math.max(...curves.flat().map(([, y]) => y));
  const size = Math.min((ACROSS - 4 * MARGIN) / (onward - back), (DOWN / 2 - MARGIN) / aside);
  const middle = (ACROSS - size * (onward + back)) / 2;
  const at = ([x, y]: Point) => `${(middle + size * x).toFixed(1)},${(DOWN / 2 - size * y).toFixed(1)}`;
  const outlines = curves.map((upper) => {
    const lower = upper.map(([x, y]): Point => [x, -y]).reverse();
    return `M${[...upper, ...lower].map(at).join("L")}Z`;
  });
  return { middle, outlines };
}
