import { useState } from "react";
import { useCatalogue } from "../api/catalogue";
import type { DialMove, TurnMove } from "../api/client";
import { useDocuments } from "../bench/documents";
import { DialOptions } from "../trials/DialOptions";
import { NumberField } from "../ui/NumberField";
import { limited, whole } from "../ui/numbers";
import { type Point, PointsPaper } from "../ui/PointsPaper";
import { pathThrough } from "../ui/stops";
import { drivable, driven, fullTurn, type Move, setMotion, useMotion } from "./motion";

const TURNED: Record<TurnMove["what"], string> = {
  forms: "the forms",
  lamps: "the lamps",
  surround: "the surround",
  camera: "the camera",
};
const MOST_FRAMES = 720;
const MOST_MOVES = 8;
const MOST_POINTS = 32;
/** How near to one another points may lie, of the whole time. */
const APART = 0.01;

/** What moves over the frames of a series, and how fast. */
export function MotionForm() {
  const catalogue = useCatalogue();
  const { material, stage } = useDocuments();
  const { motion } = useMotion();
  const { frames = 48, per_second = 24, loops = true, moves } = motion;
  const all = drivable(catalogue, material, stage);
  const set = (i: number, move: Move) => setMotion({ moves: moves.map((old, k) => (k === i ? move : old)) });
  const add = (key: string) => {
    const one = all.find((each) => each.key === key);
    if (one) setMotion({ moves: [...moves, driven(one, loops)] });
  };
  return (
    <fieldset className="flex flex-col gap-1.5" aria-label="What moves">
      <div className="flex min-h-7 items-center gap-1.5">
        <NumberField label="Frames" value={frames} onChange={(v) => setMotion({ frames: whole(v, 2, MOST_FRAMES) })} />
        frames,{" "}
        <NumberField
          label="Frames a second"
          value={per_second}
          onChange={(v) => setMotion({ per_second: whole(v, 1, 60) })}
        />
        a second
      </div>
      <label className="flex min-h-6 items-center gap-1.5">
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={loops}
          onChange={(e) => setMotion({ loops: e.target.checked })}
        />
        a loop without a seam
        <span className="figures ml-auto text-[var(--mute)]">{(frames / per_second).toFixed(1)} s</span>
      </label>
      <ul className="flex flex-col gap-2" aria-label="Moves">
        {moves.map((move, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: moves have no name but their place in the list
          <li key={i} className="border-l-2 border-base-300 pl-2">
            {move.kind === "turn" ? (
              <Turn move={move} onChange={(to) => set(i, to)} />
            ) : (
              <OverTime move={move} onChange={(to) => set(i, to)} />
            )}
            {moves.length > 1 && (
              <button
                type="button"
                className="text-[var(--mute)] hover:underline"
                onClick={() => setMotion({ moves: moves.filter((_, k) => k !== i) })}
              >
                take it off
              </button>
            )}
          </li>
        ))}
      </ul>
      {moves.length < MOST_MOVES && (
        <div className="flex gap-1.5">
          <button
            type="button"
            className="btn btn-xs"
            onClick={() => setMotion({ moves: [...moves, fullTurn("lamps")] })}
          >
            + turn
          </button>
          <select
            className="select select-xs min-w-0 grow bg-transparent"
            aria-label="Drive a dial over time"
            value=""
            onChange={(e) => add(e.target.value)}
          >
            <option value="">+ a dial over time</option>
            <DialOptions all={all} />
          </select>
        </div>
      )}
    </fieldset>
  );
}

function Turn({ move, onChange }: { move: TurnMove; onChange: (move: TurnMove) => void }) {
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      turn
      <select
        className="select select-xs w-auto bg-transparent"
        aria-label="What is turned"
        value={move.what}
        onChange={(e) => onChange({ ...move, what: e.target.value as TurnMove["what"] })}
      >
        {Object.entries(TURNED).map(([what, says]) => (
          <option key={what} value={what}>
            {says}
          </option>
        ))}
      </select>
      <NumberField
        label="Whole turns"
        value={move.turns}
        onChange={(turns) => onChange({ ...move, turns: limited(turns, -20, 20) })}
      />
      {Math.abs(move.turns ?? 1) === 1 ? "time" : "times"}
      <label className="flex items-center gap-1.5">
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={move.ease === "soft"}
          onChange={(e) => onChange({ ...move, ease: e.target.checked ? "soft" : "even" })}
        />
        from rest to rest
      </label>
    </div>
  );
}

/** A dial's value over the time of the series, drawn on paper. */
function OverTime({ move, onChange }: { move: DialMove; onChange: (move: DialMove) => void }) {
  const [chosen, choose] = useState(0);
  const points = move.points as Point[];
  const values = points.map(([, value]) => value);
  const reach = Math.max(...values) - Math.min(...values) || Math.abs(values[0]) || 1;
  const up = { low: Math.min(...values) - 0.1 * reach, high: Math.max(...values) + 0.1 * reach, places: 4 };
  const index = Math.min(chosen, points.length - 1);
  const set = (i: number, [t, value]: Point) => {
    const isEnd = i === 0 || i === points.length - 1;
    const at = isEnd ? points[i][0] : limited(t, points[i - 1][0] + APART, points[i + 1][0] - APART);
    onChange({ ...move, points: points.map((old, k) => (k === i ? [at, value] : old)) as DialMove["points"] });
  };
  const add = ([t, value]: Point) => {
    if (points.length < MOST_POINTS && points.every(([other]) => Math.abs(other - t) > APART))
      onChange({ ...move, points: [...points, [t, value] as Point].sort((a, b) => a[0] - b[0]) as DialMove["points"] });
  };
  const remove = (i: number) => {
    if (i > 0 && i < points.length - 1)
      onChange({ ...move, points: points.filter((_, k) => k !== i) as DialMove["points"] });
  };
  return (
    <div>
      <p className="truncate" title={move.label}>
        {move.label}
      </p>
      <PointsPaper
        points={points}
        across={{ low: 0, high: 1, places: 3 }}
        up={up}
        label={`${move.label} over time`}
        lines={[0.25, 0.5, 0.75]}
        path={(x, y) => pathThrough(points, move.joined === "straight" ? "linear" : "through", x, y)}
        chosen={index}
        onChoose={choose}
        onSet={set}
        onAdd={add}
        onRemove={remove}
      />
      <div className="ends">
        <span>first frame</span>
        <span>last</span>
      </div>
      <div className="flex items-center gap-1.5">
        at
        <NumberField
          label="Share of the time, %"
          value={Number((100 * points[index][0]).toFixed(1))}
          onChange={(v) => set(index, [v / 100, points[index][1]])}
        />
        % it is
        <NumberField
          label={`${move.label}, value`}
          value={points[index][1]}
          onChange={(v) => set(index, [points[index][0], v])}
        />
        {move.unit}
      </div>
    </div>
  );
}
