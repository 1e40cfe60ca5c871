import type { MaterialLine } from "../api/client";
import { carry } from "../stage/wearing";
import { ShelfPicture } from "./ShelfPicture";

interface MaterialCardProps {
  of: MaterialLine;
  isChosen?: boolean;
  onBench?: boolean;
  onTake: () => void;
  onOpen?: () => void;
}

/** A material to be taken: its picture and its name. */
export function MaterialCard({ of, isChosen, onBench, onTake, onOpen }: MaterialCardProps) {
  return (
    <button
      type="button"
      className={`block w-full border text-left ${isChosen ? "border-marker outline-2 outline-marker" : "border-base-300 hover:border-base-content"}`}
      aria-label={of.name}
      aria-pressed={isChosen}
      title={[of.name, ...of.made_of, ...of.color, ...of.tags].join(", ")}
      draggable
      onDragStart={(e) => carry(e, of.id)}
      onClick={onTake}
      onDoubleClick={onOpen}
    >
      <ShelfPicture of={of} />
      <span className="block truncate px-1.5 py-0.5">
        {onBench ? <span className="marked">{of.name}</span> : of.name}
      </span>
    </button>
  );
}
