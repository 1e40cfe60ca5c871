import type { StageLine } from "../api/client";
import { ShelfPicture } from "./ShelfPicture";

interface StageCardProps {
  of: StageLine;
  isChosen: boolean;
  onTake: () => void;
}

/** A stage to be taken: its picture with what stood on it last, and its name. */
export function StageCard({ of, isChosen, onTake }: StageCardProps) {
  return (
    <button
      type="button"
      className={`block w-full border text-left ${isChosen ? "border-marker outline-2 outline-marker" : "border-base-300 hover:border-base-content"}`}
      aria-label={of.name}
      aria-pressed={isChosen}
      title={of.name}
      onClick={onTake}
    >
      <ShelfPicture of={of} />
      <span className="block truncate px-1.5 py-0.5">{of.name}</span>
    </button>
  );
}
