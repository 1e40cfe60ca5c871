import { ShelfPicture } from "./ShelfPicture";

export interface PictureCardProps
  extends Pick<React.ComponentProps<"button">, "draggable" | "onDragStart" | "onDoubleClick"> {
  of: { name: string } & React.ComponentProps<typeof ShelfPicture>["of"];
  isChosen?: boolean;
  /** Whether it is what is on the bench. */
  onBench?: boolean;
  /** What is said of it under the pointer; its name when not given. */
  title?: string;
  onTake: () => void;
}

/** Something on a shelf to be taken: its picture and its name. */
export function PictureCard({ of, isChosen, onBench, title, onTake, ...rest }: PictureCardProps) {
  return (
    <button
      type="button"
      className={`block w-full border text-left ${isChosen ? "border-marker outline-2 outline-marker" : "border-base-300 hover:border-base-content"}`}
      aria-label={of.name}
      aria-pressed={isChosen}
      title={title ?? of.name}
      onClick={onTake}
      {...rest}
    >
      <ShelfPicture of={of} />
      <span className="block truncate px-1.5 py-0.5">
        {onBench ? <span className="marked">{of.name}</span> : of.name}
      </span>
    </button>
  );
}
