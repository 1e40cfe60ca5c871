import { useState } from "react";
import type { KeptModule } from "../api/client";
import { Desk } from "../devices/Desk";
import { HandOvers } from "../handovers/HandOvers";
import { Tabs } from "../ui/Tabs";
import { Materials } from "./Materials";
import { Modules } from "./Modules";
import { Presets } from "./Presets";
import { Scatterers } from "./Scatterers";
import { Stages } from "./Stages";
import { Substances } from "./Substances";

const SHELVES = [
  "materials",
  "stages",
  "substances",
  "matter that scatters",
  "modules",
  "presets",
  "desk",
  "hand over",
] as const;

interface LibraryProps {
  onPlace: (kept: KeptModule) => void;
  onOpen: (material: string) => void;
  onBench: () => void;
  onStage: () => void;
}

/** Finished materials, and what is kept for every one of them: measured matter, clear and scattering, modules and presets. */
export function Library({ onPlace, onOpen, onBench, onStage }: LibraryProps) {
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
        {shelf === "stages" && <Stages onStage={onStage} />}
        {shelf === "substances" && <Substances />}
        {shelf === "matter that scatters" && <Scatterers />}
        {shelf === "modules" && <Modules onPlace={onPlace} />}
        {shelf === "desk" && <Desk onBench={onBench} />}
        {shelf === "hand over" && <HandOvers onOpen={onOpen} />}
        {shelf === "presets" && <Presets onBench={onBench} />}
      </div>
    </div>
  );
}
