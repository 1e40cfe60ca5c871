/** How the picture is shown: its view, its shape, how many pixels are made, and whether it fills the place. */
import { useCatalogue } from "../api/catalogue";
import type { Settings, Stage } from "../api/client";
import { changeStage, useDocuments } from "../bench/documents";
import { useLive } from "../bench/live";

export interface LooksProps {
  settings: Settings;
  onSettings: (settings: Settings) => void;
  fills: boolean;
  onFill: () => void;
  onStops: () => void;
  onApart: () => void;
  onWhole: () => void;
}

const PIXELS: [Settings["pixels"], string][] = [
  ["fitted", "fitted"],
  ["half", "half pixels"],
  ["full", "full pixels"],
];

const on = "bg-marker px-1.5 text-[#1d1d1d]";
const off = "px-1.5 hover:underline";

/** Show the stage in the next of its views. */
export function turnDisplay(views: { name: string }[]): void {
  changeStage((stage) => {
    const at = views.findIndex(({ name }) => name === stage.view);
    return { ...stage, view: views[(at + 1) % views.length].name as Stage["view"] };
  });
}

export function Looks({ settings, onSettings, fills, onFill, onStops, onApart, onWhole }: LooksProps) {
  const { views, shapes } = useCatalogue();
  const view = useDocuments((s) => s.stage.view);
  const shape = useDocuments((s) => s.stage.shape);
  const stops = useLive((s) => s.stops);
  const apart = useLive((s) => s.apart);
  const part = useLive((s) => s.part);
  return (
    <div
      className="mat flex flex-wrap items-center gap-x-2 border-b border-[var(--mat-line)] bg-[var(--color-neutral)] px-3 py-1 text-[var(--mat-ink)]"
      role="group"
      aria-label="How the picture is shown"
    >
      {views.map((one) => (
        <button
          key={one.name}
          type="button"
          title={`${one.help} (V)`}
          aria-pressed={view === one.name}
          className={view === one.name ? on : off}
          onClick={() => changeStage((stage) => ({ ...stage, view: one.name as Stage["view"] }))}
        >
          {one.title}
        </button>
      ))}
      <button
        type="button"
        title="How many stops each part lies above or below mid grey: one step of grey a stop, the marker on mid grey (T)"
        aria-pressed={stops}
        className={stops ? on : off}
        onClick={onStops}
      >
        stops
      </button>
      <button
        type="button"
        title="Each lamp, the surround and what glows are made by themselves: their power, colour and on or off then turn at once, without making the picture again. It settles more slowly (Y)"
        aria-label="Lights apart"
        aria-pressed={apart}
        className={apart ? on : off}
        onClick={onApart}
      >
        apart
      </button>
      <select
        aria-label="Shape of the picture"
        className="ml-auto bg-transparent"
        value={shape}
        onChange={(e) => changeStage((stage) => ({ ...stage, shape: e.target.value as Stage["shape"] }))}
      >
        {shapes.map((one) => (
          <option key={one.name} className="text-black">
            {one.name}
          </option>
        ))}
      </select>
      <select
        aria-label="Pixels that are made"
        className="bg-transparent"
        value={settings.pixels}
        onChange={(e) => onSettings({ ...settings, pixels: e.target.value as Settings["pixels"] })}
      >
        {PIXELS.map(([name, title]) => (
          <option key={name} value={name} className="text-black">
            {title}
          </option>
        ))}
      </select>
      {part && (
        <button type="button" className={on} title="Make the whole picture again (R)" onClick={onWhole}>
          part only ×
        </button>
      )}
      <button
        type="button"
        className={fills ? on : off}
        aria-pressed={fills}
        title="The picture fills the place (W)"
        onClick={onFill}
      >
        fill
      </button>
    </div>
  );
}
