import type { MaterialLine } from "../api/client";
import { carry } from "../stage/wearing";
import { PictureCard, type PictureCardProps } from "./PictureCard";

type MaterialCardProps = Pick<PictureCardProps, "isChosen" | "onBench" | "onTake"> & {
  of: MaterialLine;
  onOpen?: () => void;
};

/** A material to be taken, or carried to a form. */
export function MaterialCard({ of, onOpen, ...rest }: MaterialCardProps) {
  const whose = of.may === "own" ? [] : [`${of.owner}'s, to ${of.may}`];
  const title = [of.name, ...whose, ...of.made_of, ...of.color, ...of.tags].join(", ");
  return (
    <PictureCard
      of={of}
      title={title}
      draggable
      onDragStart={(e) => carry(e, of.id)}
      onDoubleClick={onOpen}
      {...rest}
    />
  );
}
