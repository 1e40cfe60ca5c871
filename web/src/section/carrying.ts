/** A band that is carried to another depth by the pointer. */
import { type PointerEvent, type RefObject, useState } from "react";
import { useCatalogue } from "../api/catalogue";
import type { Band } from "../api/client";
import { changeBands } from "../bench/documents";
import { followPointer } from "../ui/drag";
import { movedTo, whyNotSo } from "./order";

export interface Carried {
  id: string;
  /** The place that it would take: before the band that is there now. */
  at: number;
  next: Band[];
  /** Why it cannot lie there. */
  reason?: string;
  pointer: { x: number; y: number };
}

const NEAR = 4;

/** What is carried, and what begins to carry a band. */
export function useCarrying(root: RefObject<HTMLElement | null>, bands: Band[]) {
  const catalogue = useCatalogue();
  const [carried, setCarried] = useState<Carried>();
  const carry = (id: string) => (event: PointerEvent<HTMLElement>) => {
    if (event.button !== 0) return;
    const from = event.clientY;
    let last: Carried | undefined;
    const move = (e: globalThis.PointerEvent) => {
      if (!last && Math.abs(e.clientY - from) < NEAR) return;
      const laid = [...(root.current?.querySelectorAll("[data-band]") ?? [])].map((one) => one.getBoundingClientRect());
      const at = laid.filter((box) => box.top + box.height / 2 < e.clientY).length;
      const next = movedTo(bands, id, at);
      const reason = next === bands ? undefined : whyNotSo(catalogue, next);
      last = { id, at, next, reason, pointer: { x: e.clientX, y: e.clientY } };
      setCarried(last);
    };
    followPointer(event, move, () => {
      setCarried(undefined);
      if (last && !last.reason && last.next !== bands) changeBands(() => last?.next ?? bands);
    });
  };
  return { carried, carry };
}
