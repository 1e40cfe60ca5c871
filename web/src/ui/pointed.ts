/** The dial that is under the pointer, or has the focus: what a shortcut about a dial is about. */
import type { DialAbout } from "../api/client";

export interface DialSpot {
  /** The slip, band or part of the stage that it belongs to. */
  of: string;
  about: DialAbout;
}

let under: DialSpot | undefined;
let focused: DialSpot | undefined;

export function pointedDial(): DialSpot | undefined {
  return under ?? focused;
}

/** What a dial's element listens to. */
export function pointedAt(spot: DialSpot) {
  return {
    onPointerEnter: () => {
      under = spot;
    },
    onPointerLeave: () => {
      under = undefined;
    },
    onFocus: () => {
      focused = spot;
    },
    onBlur: () => {
      focused = undefined;
    },
  };
}
