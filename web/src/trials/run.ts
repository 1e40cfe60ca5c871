/** The trial under way, or the last one. */
import { create } from "zustand";
import type { KeptTrial, Tried } from "../api/client";
import type { Axis } from "./axes";
import { stepsOf } from "./axes";

export interface Cell {
  url: string;
  noise: number;
  /** How far its mean is from what it was before, CIE DE2000; null when there is no before. */
  changed: number | null;
}

export interface Run {
  run: string;
  name: string;
  across: Axis;
  down: Axis | null;
  before: KeptTrial["means"] | null;
  /** Of a trial of several materials: their ids, in its order. */
  materials: string[];
  cells: (Cell | undefined)[];
  progress: number;
  readable: boolean;
  state: "under way" | "done" | "left";
}

export const useRun = create<{ run?: Run }>()(() => ({}));

export const sizeOf = ({ across, down }: Pick<Run, "across" | "down">) => ({
  columns: stepsOf(across).length,
  rows: stepsOf(down).length,
});

export function beginRun(
  name: string,
  across: Axis,
  down: Axis | null,
  before: Run["before"] = null,
  materials: string[] = [],
): Run {
  const { columns, rows } = sizeOf({ across, down });
  const cells = Array.from({ length: columns * rows }, () => undefined);
  const run: Run = {
    ...{ run: crypto.randomUUID(), name, across, down, before, materials, cells },
    ...{ progress: 0, readable: false, state: "under way" as const },
  };
  for (const cell of useRun.getState().run?.cells ?? []) if (cell) URL.revokeObjectURL(cell.url);
  useRun.setState({ run });
  return run;
}

/** The trial stays as far as it is. */
export function leaveRun(): void {
  useRun.setState(({ run }) => ({ run: run && { ...run, state: run.state === "done" ? "done" : "left" } }));
}

/** Take in one picture of it. */
export function hearTried(said: Tried, bytes: Uint8Array<ArrayBuffer>): void {
  const { run } = useRun.getState();
  if (run?.run !== said.run) return;
  const before = run.cells[said.place];
  if (before) URL.revokeObjectURL(before.url);
  const url = URL.createObjectURL(new Blob([bytes], { type: "image/png" }));
  const cell = { url, noise: said.noise, changed: said.changed };
  const cells = run.cells.map((one, i) => (i === said.place ? cell : one));
  const state = said.done ? ("done" as const) : run.state;
  useRun.setState({ run: { ...run, cells, progress: said.progress, readable: said.readable, state } });
}
