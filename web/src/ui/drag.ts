/** Follow the pointer from a press until it is let go; the handle keeps the pointer even when it leaves it. */
import { type PointerEvent, startTransition, useEffect, useState } from "react";

export function followPointer(
  event: PointerEvent<Element>,
  move: (e: globalThis.PointerEvent) => void,
  end: () => void = () => {},
): void {
  const handle = event.currentTarget as HTMLElement | SVGElement;
  handle.setPointerCapture(event.pointerId);
  const go = (e: Event) => move(e as globalThis.PointerEvent);
  const stop = () => {
    handle.removeEventListener("pointermove", go);
    for (const way of ["pointerup", "pointercancel"]) handle.removeEventListener(way, stop);
    end();
  };
  handle.addEventListener("pointermove", go);
  for (const way of ["pointerup", "pointercancel"]) handle.addEventListener(way, stop);
}

/** A gesture from now until the pointer is let go, wherever that is. */
function untilLetGo(begin: () => void = () => {}, end: () => void = () => {}): void {
  const ends = ["pointerup", "pointercancel", "blur"];
  const stop = () => {
    for (const way of ends) window.removeEventListener(way, stop);
    end();
  };
  begin();
  // Not while captured: the blur of every part of the page would come by here too.
  for (const way of ends) window.addEventListener(way, stop);
}

/** A gesture for controls that tell their last value only after they are drawn: gives what begins it at a press; it ends once that is done. */
export function useDrawnGesture(begin?: () => void, end?: () => void): () => void {
  const [isHeld, setHeld] = useState(false);
  useEffect(() => {
    if (!isHeld) return;
    begin?.();
    return end;
  }, [isHeld, begin, end]);
  return () =>
    untilLetGo(
      () => setHeld(true),
      () => startTransition(() => setHeld(false)),
    );
}
