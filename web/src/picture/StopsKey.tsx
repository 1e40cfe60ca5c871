import { useCatalogue } from "../api/catalogue";
import { useLive } from "../bench/live";

/** What the steps of the view of stops mean, over its foot. */
export function StopsKey() {
  const { stops } = useCatalogue();
  const isShown = useLive((s) => s.stops);
  if (!isShown) return null;
  return (
    <figure
      className="figures pointer-events-none absolute right-2 bottom-2 bg-[#000c] px-1.5 py-1 text-[11px] text-white"
      aria-label="Stops from mid grey"
    >
      <figcaption>stops from mid grey</figcaption>
      <ol className="flex">
        {stops.map(({ stop, color }) => (
          <li key={stop} className="w-4 text-center">
            <span className="block h-2.5" style={{ background: color }} />
            {stop % 2 === 0 && stop}
          </li>
        ))}
      </ol>
    </figure>
  );
}
