/** A part of the picture that alone is made: left, top, right, bottom, 0 to 1. */
export type Part = [number, number, number, number];

const LEAST = 0.02;

/** The part between two corners, or none when it is too small to be meant. */
export function partBetween(a: [number, number], b: [number, number]): Part | undefined {
  const hold = (v: number) => Math.min(Math.max(v, 0), 1);
  const [left, right] = [hold(Math.min(a[0], b[0])), hold(Math.max(a[0], b[0]))];
  const [top, bottom] = [hold(Math.min(a[1], b[1])), hold(Math.max(a[1], b[1]))];
  return right - left < LEAST || bottom - top < LEAST ? undefined : [left, top, right, bottom];
}

/** Where a part lies over the picture, as CSS. */
export function placed([left, top, right, bottom]: Part) {
  const share = (v: number) => `${v * 100}%`;
  return { left: share(left), top: share(top), width: share(right - left), height: share(bottom - top) };
}
