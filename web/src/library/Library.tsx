import { useState } from "react";
import type { KeptModule } from "../api/client";
import { Modules } from "./Modules";
import { Scatterers } from "./Scatterers";
import { Substances } from "./Substances";

const SHELVES = ["substances", "matter that scatters", "modules"] as const;

/** What is kept for every material: measured matter, clear and scattering, and modules. */
export function Library({ onPlace }: { onPlace: (kept: KeptModule) => void }) {
  const [shelf, setShelf] = useState<(typeof SHELVES)[number]>("substances");
  return (
    <div className="flex h-full flex-col bg-base-100 text-base-content">
      <div role="tablist" aria-label="Shelves" className="flex gap-4 border-b border-base-content px-3 py-1.5">
        {SHELVES.map((one) => (
          <button
            type="button"
            key={one}
            role="tab"
            aria-selected={one === shelf}
            className="min-h-6"
            onClick={() => setShelf(one)}
          >
            <span className={one === shelf ? "marked" : "hover:underline"}>{one}</span>
          </button>
        ))}
      </div>
      <div className="min-h-0 grow">
        {shelf === "substances" && <Substances />}
        {shelf === "matter that scatters" && <Scatterers />}
        {shelf === "modules" && <Modules onPlace={onPlace} />}
      </div>
    </div>
  );
}
