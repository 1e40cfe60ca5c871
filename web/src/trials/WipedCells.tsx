import { useState } from "react";
import { Wipe } from "../picture/Wipe";
import type { Cell } from "./run";

interface WipedCellsProps {
  cells: { name: string; cell: Cell }[];
  /** Which is beneath; the other is chosen here. */
  beneath: number;
}

/** Two pictures of a trial in one place, with an edge between them that is dragged. */
export function WipedCells({ cells, beneath }: WipedCellsProps) {
  const [over, lay] = useState(beneath === 0 ? 1 : 0);
  return (
    <figure className="mx-auto w-full max-w-[34rem]">
      <div className="relative border border-black">
        <img src={cells[beneath].cell.url} alt={cells[beneath].name} className="block w-full" />
        <Wipe picture={cells[over].cell.url} says={cells[over].name} />
      </div>
      <figcaption className="flex items-center justify-between gap-3 py-1">
        <select
          className="select select-xs w-auto max-w-56 bg-transparent"
          aria-label="Left of the edge"
          value={over}
          onChange={(e) => lay(Number(e.target.value))}
        >
          {cells.map((one, k) => (
            <option key={one.name} value={k}>
              {one.name}
            </option>
          ))}
        </select>
        <span className="truncate">{cells[beneath].name}</span>
      </figcaption>
    </figure>
  );
}
