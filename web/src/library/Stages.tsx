import { useState } from "react";
import { useStagePictures } from "../api/queries";
import { chooseStage, useDocuments } from "../bench/documents";
import { Seek } from "./Seek";
import { StageCard } from "./StageCard";

/** The stages with what stood on each last; the material on the bench is put on one by a click. */
export function Stages({ onStage }: { onStage: () => void }) {
  const { data: all = [] } = useStagePictures();
  const here = useDocuments((s) => s.stageId);
  const [sought, setSought] = useState("");
  const shown = all.filter((one) => one.name.toLowerCase().includes(sought.toLowerCase()));
  return (
    <section className="flex h-full min-w-0 flex-col bg-base-100 text-base-content" aria-label="Stages">
      <Seek
        title="Stages"
        placeholder="a word of its name"
        sought={sought}
        onSeek={setSought}
        shown={shown.length}
        of={all.length}
      />
      <ul className="grid min-h-0 grow auto-rows-max grid-cols-[repeat(auto-fill,minmax(112px,1fr))] gap-2.5 overflow-y-auto p-3">
        {shown.map((one) => (
          <li key={one.id}>
            <StageCard
              of={one}
              isChosen={one.id === here}
              onTake={() => {
                chooseStage(one.id);
                onStage();
              }}
            />
          </li>
        ))}
      </ul>
    </section>
  );
}
