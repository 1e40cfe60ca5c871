import { useState } from "react";
import type { KeptModule } from "../api/client";
import { Tabs } from "../ui/Tabs";
import { Materials } from "./Materials";
import { Modules } from "./Modules";
import { Scatterers } from "./Scatterers";
import { Substances } from "./Substances";

const SHELVES = ["materials", "substances", "matter that scatters", "modules"] as const;

interface LibraryProps {
  onPlace: (kept: KeptModule) => void;
  onOpen: (material: string) => void;
}

/** Finished materials, and what is kept for every one of them: measured matter, clear and scattering, and modules. */
export function Library({ onPlace, onOpen }: LibraryProps) {
  const [shelf, setShelf] = useState<(typeof SHELVES)[number]>("materials");
  return (
    <div className="flex h-full flex-col bg-base-100 text-base-content">
      <Tabs
        label="Shelves"
        words={SHELVES}
        chosen={shelf}
        onChoose={setShelf}
        className="border-b border-base-content px-3 py-1.5"
      />
      <div className="min-h-0 grow">
        {shelf === "materials" && <Materials onOpen={onOpen} />}
        {shelf === "substances" && <Substances />}
        {shelf === "matter that scatters" && <Scatterers />}
        {shelf === "modules" && <Modules onPlace={onPlace} />}
      </div>
    </div>
  );
}
