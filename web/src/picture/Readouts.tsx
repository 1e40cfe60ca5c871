/** What was asked of a place of the picture: its light, or the way that the light took. */
import { useLive } from "../bench/live";
import { say } from "../ui/numbers";

/** Colours of the spectrum for the lines of a fan, by wavelength. */
function lineColor(nm: number): string {
  return `hsl(${Math.round(Math.min(Math.max((660 - nm) / (660 - 430), 0), 1) * 265)} 95% 60%)`;
}

/** The ways of light drawn over the picture. */
export function RayLines({ aspect }: { aspect: number }) {
  const followed = useLive((s) => s.followed);
  if (!followed) return null;
  return (
    <svg
      className="pointer-events-none absolute inset-0 h-full w-full"
      viewBox={`0 0 ${aspect} 1`}
      role="img"
      aria-label="The way of the light"
    >
      {followed.rays.map((ray) => {
        const places = ray.drawn.filter((p): p is [number, number] => p !== null);
        const line = places.map(([x, y]) => `${x * aspect},${y}`).join(" ");
        return (
          <g key={ray.wavelength_nm}>
            <polyline points={line} fill="none" stroke="#000" strokeOpacity="0.6" strokeWidth="0.007" />
            <polyline
              points={line}
              fill="none"
              stroke={followed.rays.length > 1 ? lineColor(ray.wavelength_nm) : "#ffe14d"}
              strokeWidth="0.0035"
              style={{ mixBlendMode: "screen" }}
            />
          </g>
        );
      })}
      {followed.rays[Math.floor(followed.rays.length / 2)].drawn.map(
        (p, i) =>
          p && (
            // biome-ignore lint/suspicious/noArrayIndexKey: steps have no name but their order
            <circle key={i} cx={p[0] * aspect} cy={p[1]} r="0.007" fill="#ffe14d" stroke="#000" strokeWidth="0.002" />
          ),
      )}
    </svg>
  );
}

/** The numbers of a pick or a followed ray, in place of the gauges' caption; closed by its cross. */
export function Readout() {
  const { picked, followed } = useLive();
  if (!picked && !followed) return null;
  const close = () => useLive.setState({ picked: undefined, followed: undefined });
  return (
    <aside
      className="max-h-56 shrink-0 overflow-y-auto border-y border-[var(--mat-line)] bg-base-100 px-3 py-2 text-base-content"
      aria-label="Read from the picture"
    >
      <button type="button" className="float-right min-h-6 min-w-6" aria-label="Close" onClick={close}>
        ×
      </button>
      {picked && <PickedView />}
      {followed && <FollowedView />}
    </aside>
  );
}

function PickedView() {
  const picked = useLive((s) => s.picked);
  if (!picked) return null;
  const highest = Math.max(...picked.spectrum, 1e-9);
  const over = ["red", "green", "blue"].filter((_, i) => picked.over[i]);
  return (
    <div>
      <p>
        <span
          className="mr-2 inline-block h-3 w-6 border border-current align-middle"
          style={{ background: picked.display }}
        />
        <b>{picked.seen.replaceAll("_", " ")}</b> {over.length > 0 && `· past white in ${over.join(" and ")}`}
      </p>
      <p className="figures">
        scene {picked.linear.map((v) => say(v)).join("  ")} · Y {say(picked.luminance)} · display {picked.display}
      </p>
      <svg viewBox="0 0 400 60" className="mt-1 block h-16 w-full" role="img" aria-label="Spectrum of the light there">
        <polyline
          points={picked.spectrum
            .map((v, i) => `${picked.wavelengths_nm[i] - 380},${58 - (v / highest) * 54}`)
            .join(" ")}
          fill="none"
          stroke="currentColor"
          strokeWidth="1.5"
        />
        <text x="0" y="10" fontSize="10" fill="currentColor">
          380 nm
        </text>
        <text x="400" y="10" fontSize="10" textAnchor="end" fill="currentColor">
          780 nm
        </text>
      </svg>
    </div>
  );
}

function FollowedView() {
  const followed = useLive((s) => s.followed);
  if (!followed) return null;
  const ray = followed.rays.find((one) => one.wavelength_nm === 587.56) ?? followed.rays[0];
  return (
    <div>
      <p className="mb-1">
        From the eye backwards, at {ray.wavelength_nm} nm: <b>{say(ray.left * 100)} %</b> of what comes in at the far
        end arrives.
      </p>
      <ol className="figures">
        {ray.steps.map((step, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: steps have no name but their order
          <li key={i} className="flex justify-between gap-2 border-t border-base-200">
            <span className="w-32 shrink-0">
              {step.object ? `${say(step.length_cm)} cm of ${step.medium}` : step.medium}
            </span>
            <span className="grow truncate" title={step.event}>
              {step.event}
              {step.angle_deg !== null && ` ${say(step.angle_deg)}°`}
              {step.angle_beyond_deg !== null && ` → ${say(step.angle_beyond_deg)}°`}
            </span>
            <span>{say(step.left * 100)} %</span>
          </li>
        ))}
      </ol>
      {followed.rays.length > 1 && (
        <p className="figures mt-1">
          {followed.rays.map((one) => `${Math.round(one.wavelength_nm)}: ${say(one.left * 100)} %`).join(" · ")}
        </p>
      )}
    </div>
  );
}
