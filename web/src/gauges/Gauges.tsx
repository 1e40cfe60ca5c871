import { useEffect, useRef, useState } from "react";
import type { Reading } from "../api/client";
import { useLive } from "../bench/live";
import { CurvesPlot } from "./CurvesPlot";
import { LobesPlot } from "./LobesPlot";
import { PolarPlot } from "./PolarPlot";
import { RungsPlot } from "./RungsPlot";
import { StripsPlot } from "./StripsPlot";

/** A gauge wants this much width; where there is more, others stand beside it. */
const WIDE = 340;

/** Computed plots of the material, one at a time. */
export function Gauges() {
  const [chosen, choose] = useState("ladder");
  const read = useLive((s) => s.reading?.gauges);
  const gauges = read ?? [];
  const box = useRef<HTMLDivElement>(null);
  const room = useRoom(box);
  const first = Math.max(
    gauges.findIndex((one) => one.name === chosen),
    0,
  );
  const about = gauges[first];
  const beside = gauges.filter((one) => one !== about).slice(0, room - 1);
  return (
    <div ref={box} className="flex min-h-0 grow flex-col bg-base-100 text-base-content">
      <div role="tablist" aria-label="Gauges" className="flex border-b border-base-300 px-1.5">
        {gauges.map((gauge) => (
          <button
            type="button"
            key={gauge.name}
            role="tab"
            aria-selected={gauge.name === about?.name}
            className={`px-2.5 py-1 ${gauge.name === about?.name ? "font-semibold shadow-[inset_0_-2px] shadow-base-content" : "text-[var(--mute)]"}`}
            title={gauge.help}
            onClick={() => choose(gauge.name)}
          >
            {gauge.title}
          </button>
        ))}
      </div>
      <div className="flex min-h-0 grow">
        <div
          role="tabpanel"
          // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls is reached by the keyboard
          tabIndex={0}
          aria-label={about?.title}
          className="min-h-0 min-w-0 flex-1 overflow-y-auto px-3 py-2"
        >
          {about ? (
            <Plot gauge={about} />
          ) : (
            <p>{read ? "No gauge is about what is in this section." : "The gauges are being computed ..."}</p>
          )}
        </div>
        {beside.map((gauge) => (
          <section
            key={gauge.name}
            aria-label={gauge.title}
            className="min-h-0 min-w-0 flex-1 overflow-y-auto border-l border-base-300 px-3 py-2"
          >
            <Plot gauge={gauge} />
          </section>
        ))}
      </div>
    </div>
  );
}

function Plot({ gauge }: { gauge: Reading["gauges"][number] }) {
  if (gauge.plot === "rungs") return <RungsPlot rungs={gauge.computed} />;
  if (gauge.plot === "polar") return <PolarPlot polar={gauge.computed} />;
  if (gauge.plot === "lobes") return <LobesPlot lobes={gauge.computed} />;
  if (gauge.plot === "strips") return <StripsPlot strips={gauge.computed} />;
  return <CurvesPlot curves={gauge.computed} />;
}

/** How many gauges there is room for beside one another. */
function useRoom(box: React.RefObject<HTMLDivElement | null>): number {
  const [room, setRoom] = useState(1);
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const look = () => setRoom(Math.max(1, Math.floor(element.clientWidth / WIDE)));
    const wide = new ResizeObserver(look);
    wide.observe(element);
    return () => wide.disconnect();
  }, [box]);
  return room;
}
