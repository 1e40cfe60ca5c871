import type { Slip } from "../api/client";

const STEP = { x: 230, y: 130 };
const COLUMNS = 2;
const ROWS = 60;

/** The first place on the paper, from a corner on, where a new slip covers no other. */
export function freePlace(slips: Slip[], corner: { x: number; y: number }): { x: number; y: number } {
  for (let row = 0; row < ROWS; row++)
    for (let column = 0; column < COLUMNS; column++) {
      const place = { x: corner.x + column * STEP.x, y: corner.y + row * STEP.y };
      const taken = slips.some(
        ({ at }) =>
          Math.abs(at[0] - place.x) < STEP.x - 40 && place.y - at[1] < STEP.y * 1.6 && at[1] - place.y < STEP.y,
      );
      if (!taken) return place;
    }
  return corner;
}
