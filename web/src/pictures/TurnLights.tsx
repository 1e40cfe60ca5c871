import { useDeferredValue, useState } from "react";
import { api, type FinalPicture, type Material, type Rgb, type Stage, wordsOf } from "../api/client";
import { changeMaterial, changeStage, inOneStep, useDocuments } from "../bench/documents";
import { fromHex, toHex } from "../ui/colors";
import { tell } from "../ui/told";

interface Turn {
  on: boolean;
  /** Stops above or below what it was made with. */
  stops: number;
  color: Rgb;
}

const AS_MADE: Turn = { on: true, stops: 0, color: [1, 1, 1] };
const MOST_STOPS = 6;

const gainOf = ({ on, stops, color }: Turn): Rgb => color.map((v) => (on ? v * 2 ** stops : 0)) as Rgb;

function turnOf(gain?: number[]): Turn {
  if (!gain) return AS_MADE;
  const most = Math.max(...gain);
  if (most === 0) return { ...AS_MADE, on: false };
  return { on: true, stops: Math.log2(most), color: gain.map((v) => v / most) as Rgb };
}

interface TurnLightsProps {
  of: FinalPicture;
  onAct: (what: Promise<{ error?: unknown }>) => Promise<void>;
  /** Shows the picture that is at an address. */
  picture: (src: string) => React.ReactNode;
}

/** The lights of a picture, turned after it was made: seen at once, kept with what is handed out, taken over by the stage. */
export function TurnLights({ of, onAct, picture }: TurnLightsProps) {
  const [turns, setTurns] = useState<Record<string, Turn>>(() =>
    Object.fromEntries(of.lights.map(({ id }) => [id, turnOf(of.gains[id])])),
  );
  const gains = Object.fromEntries(of.lights.map(({ id }) => [id, gainOf(turns[id])]));
  const query = useDeferredValue(
    of.lights.map(({ id }) => `${id}=${gains[id].map((v) => Number(v.toPrecision(4))).join(",")}`).join("&"),
  );
  const set = (id: string, about: Partial<Turn>) => setTurns({ ...turns, [id]: { ...turns[id], ...about } });
  const path = { params: { path: { picture_id: of.id } } };
  const keep = () => onAct(api.POST("/api/pictures/{picture_id}/lights", { ...path, body: { gains } }));
  const takeOver = async () => {
    await keep();
    const { material, stage } = useDocuments.getState();
    const { data, error } = await api.POST("/api/pictures/{picture_id}/taken-over", {
      ...path,
      body: { material, stage },
    });
    if (!data) return tell(wordsOf(error));
    inOneStep(() => {
      changeMaterial(() => data.material as Material);
      changeStage(() => data.stage as Stage);
    });
    tell("The lights of this stage are as they are turned here; undo goes back.");
  };
  return (
    <>
      {picture(`/pictures/${of.id}/turned.jpg?${query}&samples:=${of.samples}`)}
      <section className="border-t border-base-300 px-3 py-2" aria-label="Lights, turned afterwards">
        <ul className="grid grid-cols-[auto_1fr_auto_auto] items-center gap-x-3 gap-y-1">
          {of.lights.map(({ id, name }) => (
            <li key={id} className="contents">
              <label className="flex min-h-6 items-center gap-1.5">
                <input
                  type="checkbox"
                  className="toggle toggle-xs"
                  checked={turns[id].on}
                  onChange={(e) => set(id, { on: e.target.checked })}
                />
                {name}
              </label>
              <input
                type="range"
                className="range range-xs w-full"
                aria-label={`${name}: stops`}
                min={-MOST_STOPS}
                max={MOST_STOPS}
                step={0.1}
                value={turns[id].stops}
                onChange={(e) => set(id, { stops: Number(e.target.value) })}
                onDoubleClick={() => set(id, { stops: 0 })}
              />
              <span className="figures w-16 text-right">
                {turns[id].stops > 0 ? "+" : ""}
                {turns[id].stops.toFixed(1)} EV
              </span>
              <input
                type="color"
                className="h-6 w-9 border border-base-content"
                aria-label={`${name}: colour`}
                value={toHex(turns[id].color)}
                onChange={(e) => set(id, { color: fromHex(e.target.value) ?? turns[id].color })}
              />
            </li>
          ))}
        </ul>
        <p className="mt-1.5 flex gap-3">
          <button type="button" className="btn btn-xs" onClick={keep}>
            Keep so
          </button>
          <button type="button" className="btn btn-xs" onClick={takeOver}>
            The stage takes it over
          </button>
          <button
            type="button"
            className="hover:underline"
            onClick={() => setTurns(Object.fromEntries(of.lights.map(({ id }) => [id, AS_MADE])))}
          >
            as it was made
          </button>
        </p>
      </section>
    </>
  );
}
