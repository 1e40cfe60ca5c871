/** What moves from frame to frame in the next series. */
import { create } from "zustand";
import { persist } from "zustand/middleware";
import type { Catalogue, DialMove, Material, Motion, Stage, TurnMove } from "../api/client";
import { ON_STAGE } from "../bench/documents";
import { type Turnable, turnables } from "../trials/axes";

export type Move = TurnMove | DialMove;

interface Kept {
  /** Whether a series is made, and not one picture. */
  moves: boolean;
  motion: Motion;
}

export const fullTurn = (what: TurnMove["what"] = "forms"): TurnMove => ({
  kind: "turn",
  what,
  turns: 1,
  ease: "even",
});

/** Kept in the browser: what was chosen last is what one goes on with. */
export const useMotion = create<Kept>()(
  persist(
    (): Kept => ({
      moves: false,
      motion: {
        format: "nineglass.motion",
        version: 1,
        frames: 48,
        per_second: 24,
        loops: true,
        moves: [fullTurn()],
      },
    }),
    { name: "nineglass-motion" },
  ),
);

export const setMotion = (about: Partial<Motion>) =>
  useMotion.setState(({ motion }) => ({ motion: { ...motion, ...about } }));

/** Every number that may be driven over time: those of a trial, and the time of the stage. */
export function drivable(catalogue: Catalogue, material: Material, stage: Stage): Turnable[] {
  const time = {
    ...{ name: "time", label: "Time", type: "number", default: 0, low: 0, high: 10, scale: "linear", unit: "s" },
  } as Turnable["about"];
  const own: Turnable = {
    key: `${ON_STAGE} time`,
    owner: "Stage",
    label: "Time",
    part: ON_STAGE,
    about: time,
    channel: "",
  };
  return [...turnables(catalogue, material, stage), own];
}

/** A dial that goes from where it is to the other end of its range and, in a loop, back. */
export function driven(one: Turnable, loops: boolean): DialMove {
  const [low, high] = [one.about.low ?? 0, one.about.high ?? 1];
  const points: DialMove["points"] = loops
    ? [
        [0, low],
        [0.5, high],
        [1, low],
      ]
    : [
        [0, low],
        [1, high],
      ];
  return {
    ...{ kind: "dial", module: "", part: one.part, dial: one.about.name, channel: one.channel, points },
    ...{ joined: "smooth", label: `${one.owner}: ${one.label}`.slice(0, 120), unit: one.about.unit ?? "" },
  };
}
