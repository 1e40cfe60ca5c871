import { Users } from "lucide-react";
import { useState } from "react";
import type { MaterialLine, StageOut } from "../api/client";
import { useDocuments } from "../bench/documents";
import { useLive } from "../bench/live";
import { bringIn, useSaving } from "../bench/saving";
import { PeopleSheet } from "./PeopleSheet";
import type { Thing } from "./people";

interface HereProps {
  material?: MaterialLine;
  stage?: StageOut;
}

/** Who else is at this material, what they saved since, and the way to share it. */
export function Here({ material, stage }: HereProps) {
  const here = useLive((s) => s.here);
  const revision = useDocuments((s) => s.revision);
  const isSaving = useSaving((s) => s.state === "saving");
  const [isOpen, setOpen] = useState(false);
  const things: Thing[] = [];
  if (material) things.push({ kind: "material", of: material.id, name: material.name, isMine: material.may === "own" });
  if (stage) things.push({ kind: "stage", of: stage.id, name: stage.name, isMine: stage.may === "own" });
  return (
    <>
      {here && here.others.length > 0 && (
        <span
          className="max-w-20 truncate text-white"
          role="status"
          aria-label="Who else is here"
          title={`Here as well: ${here.others.join(", ")}`}
        >
          <span className="mr-1 inline-block h-2 w-2 bg-marker" aria-hidden="true" />
          {here.others.join(", ")}
        </span>
      )}
      {here && here.revision > revision && !isSaving && (
        <button
          type="button"
          className="whitespace-nowrap py-1 underline"
          title="What was saved elsewhere comes to yours; where both changed the same part you are asked"
          onClick={bringIn}
        >
          bring in {here.revision}
        </button>
      )}
      <button
        type="button"
        className="p-1.5 hover:text-white"
        aria-label="Shared with"
        title={
          material && material.may !== "own" ? `It is ${material.owner}'s; you may ${material.may}` : "Shared with"
        }
        onClick={() => setOpen(true)}
      >
        <Users size={15} />
      </button>
      {isOpen && <PeopleSheet things={things} onClose={() => setOpen(false)} />}
    </>
  );
}
