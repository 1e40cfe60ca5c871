import { useState } from "react";
import { useLive } from "../bench/live";
import { CurvesPlot } from "./CurvesPlot";
import { RungsPlot } from "./RungsPlot";
import { StripsPlot } from "./StripsPlot";

/** Computed plots of the material, one at a time. */
export function Gauges() {
  const [chosen, choose] = useState("ladder");
  const gauges = useLive((s) => s.reading?.gauges) ?? [];
  const about = gauges.find((one) => one.name === chosen) ?? gauges[0];
  return (
    <div className="flex min-h-0 grow flex-col bg-base-100 text-base-content">
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
      <div role="tabpanel" aria-label={about?.title} className="min-h-0 grow overflow-y-auto px-3 py-2">
        {!about && <p>The gauge is being computed ...</p>}
        {about?.plot === "rungs" && <RungsPlot rungs={about.computed} />}
        {about?.plot === "strips" && <StripsPlot strips={about.computed} />}
        {about?.plot === "curves" && <CurvesPlot curves={about.computed} />}
      </div>
    </div>
  );
}
