import { useState } from "react";
import { api, type CurveIn, type DialAbout, wordsOf } from "../api/client";
import { KeepCurve } from "./KeepCurve";
import { type Point, PointsPaper } from "./PointsPaper";

interface CurveDialProps {
  about: DialAbout;
  value: Point[];
  onChange: (value: Point[]) => void;
  onBegin?: () => void;
  onEnd?: () => void;
}

const NM = { low: 380, high: 780, places: 0, unit: "nm" };
const SHARE = { low: 0, high: 1, places: 3 };
const MOST = 64;

/** Points over wavelength; or a measured curve that is pasted; a curve may be kept as a file. */
export function CurveDial({ about, value, onChange, onBegin, onEnd }: CurveDialProps) {
  const [pasting, setPasting] = useState(false);
  const set = (i: number, [nm, share]: Point) => {
    const low = (value[i - 1]?.[0] ?? 199) + 1;
    const high = (value[i + 1]?.[0] ?? 3001) - 1;
    onChange(value.map((old, k) => (k === i ? [Math.min(Math.max(nm, low), high), share] : old)));
  };
  const add = ([nm, share]: Point) => {
    if (value.length < MOST && !value.some((point) => Math.abs(point[0] - nm) < 2))
      onChange([...value, [nm, share] as Point].sort((a, b) => a[0] - b[0]));
  };
  const remove = (i: number) => value.length > 2 && onChange(value.filter((_, k) => k !== i));
  return (
    <div className="nodrag py-0.5" data-dial={about.name} title={about.help}>
      <div className="flex items-center justify-between">
        {about.label}
        <button type="button" className="py-1 underline" onClick={() => setPasting(!pasting)}>
          paste, open or keep
        </button>
      </div>
      <PointsPaper
        points={value}
        across={NM}
        up={SHARE}
        label={`${about.label} over wavelength`}
        lines={[450, 550, 650, 750]}
        path={(x, y) => `M${value.map(([nm, share]) => `${x(nm)},${y(share)}`).join("L")}`}
        onSet={set}
        onAdd={add}
        onRemove={remove}
        onBegin={onBegin}
        onEnd={onEnd}
      />
      <div className="ends">
        <span>380 nm</span>
        <span>780 nm</span>
      </div>
      {pasting && <CurveFile about={about} points={value} onTake={(points) => onChange(points)} />}
    </div>
  );
}

interface CurveFileProps {
  about: DialAbout;
  points: Point[];
  onTake: (points: Point[]) => void;
}

/** A curve from CSV or SPDX, pasted or of a file, and into one. */
function CurveFile({ about, points, onTake }: CurveFileProps) {
  const [says, setSays] = useState("");
  const quantity = about.quantity as CurveIn["quantity"];
  const take = async (text: string) => {
    const { data, error } = await api.POST("/api/curves", { body: { text, quantity } });
    if (!data) {
      setSays(wordsOf(error));
      return;
    }
    setSays(`${data.points.length} points taken`);
    onTake(data.points as Point[]);
  };
  return (
    <div className="mt-1 border-l-2 border-base-300 pl-2">
      <textarea
        className="figures h-16 w-full border border-base-300 bg-transparent p-1"
        placeholder={"wavelength in nm, share\n400, 0.35\n..."}
        aria-label="Curve as text, CSV or SPDX"
        onKeyDown={(e) => e.stopPropagation()}
        onChange={(e) => e.target.value.trim() && take(e.target.value)}
      />
      <input
        type="file"
        className="file-input file-input-xs w-full"
        accept=".csv,.txt,.spdx,.xml"
        aria-label="Curve from a file"
        onChange={async (e) => {
          const file = e.target.files?.[0];
          if (file) take(await file.text());
        }}
      />
      <KeepCurve points={points} quantity={quantity} says={about.label} />
      {says && <p role="status">{says}</p>}
    </div>
  );
}
