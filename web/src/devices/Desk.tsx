import { type ReactNode, useState } from "react";
import { dialsOf, dialValue, effective, useCatalogue } from "../api/catalogue";
import type { Compared, DialValue, Kind, Scan } from "../api/client";
import { CurvesPlot } from "../gauges/CurvesPlot";
import { FreeDial } from "../ui/Dial";
import { say } from "../ui/numbers";
import { LightDesk } from "./LightDesk";
import { beginScan, removeScan, stopScan, toDye, toMaterial, useCompared, useScans } from "./scans";

const MOST_SHOWN = 3;
const LEAST_RANGE = 0.1;

/** The devices on the desk, one at a time. */
export function Desk({ onBench }: { onBench: () => void }) {
  const devices = useCatalogue().kinds.filter(({ role }) => role === "device");
  const [name, choose] = useState("");
  const device = devices.find((one) => one.name === name) ?? devices.at(-1);
  if (!device) return null;
  const chooser = (
    <select
      className="select select-xs w-full font-semibold"
      aria-label="Device"
      value={device.name}
      onChange={(e) => choose(e.target.value)}
    >
      {devices.map((one) => (
        <option key={one.name} value={one.name}>
          {one.title}
        </option>
      ))}
    </select>
  );
  return device.family === LIGHT ? (
    <LightDesk device={device} chooser={chooser} />
  ) : (
    <SampleDesk device={device} chooser={chooser} onBench={onBench} />
  );
}

/** The family of devices that read the light of the stage. */
const LIGHT = "light on the stage";

export interface DeskProps {
  device: Kind;
  chooser: ReactNode;
}

/** A device that reads samples: what is put in, how it is read, and what was found. */
function SampleDesk({ device, chooser, onBench }: DeskProps & { onBench: () => void }) {
  const catalogue = useCatalogue();
  const [dials, setDials] = useState<Record<string, DialValue>>({});
  const [shownIds, show] = useState<string[]>([]);
  const [perCm, setPerCm] = useState(false);
  const scans = useScans();
  const under = scans.find((one) => one.seconds_left > 0);
  const chosen = scans.filter((one) => shownIds.includes(one.id));
  const shown = chosen.length ? chosen : scans.slice(0, 1);
  const compared = useCompared(shown, perCm);
  const part = { dials };
  const begin = async () => {
    const made = await beginScan(device.name, dials);
    if (made) show([made]);
  };
  const turn = (id: string) =>
    show((old) => (old.includes(id) ? old.filter((one) => one !== id) : [...old, id].slice(-MOST_SHOWN)));
  return (
    <section className="flex h-full min-w-0" aria-label="Desk">
      <div className="flex w-[17rem] shrink-0 flex-col gap-2 overflow-y-auto border-r border-base-300 p-3">
        {chooser}
        <p className="text-[var(--mute)]">{device.help}</p>
        {effective(dialsOf(device), part).map((about) => (
          <FreeDial
            key={about.name}
            about={about}
            value={dialValue(part, about)}
            onChange={(value) => setDials({ ...dials, [about.name]: value })}
          />
        ))}
        {under ? (
          <div className="flex items-center gap-2" role="status">
            <progress className="progress grow" value={under.places.length} max={under.of_places} />
            <span className="figures">{Math.ceil(under.seconds_left)} s</span>
            <button type="button" className="btn btn-xs" onClick={() => stopScan(under.id)}>
              stop
            </button>
          </div>
        ) : (
          <button type="button" className="btn btn-sm bg-marker text-[#1d1d1d]" onClick={begin}>
            Read it
          </button>
        )}
        <h2 className="mt-2 font-semibold">Readings</h2>
        {scans.length === 0 && <p className="text-[var(--mute)]">None yet. Begin with clear water: the baseline.</p>}
        <ul aria-label="Readings">
          {scans.map((one) => (
            <li key={one.id} className="flex items-baseline gap-2 border-b border-base-300 py-0.5">
              <label className="flex min-h-6 min-w-0 grow items-baseline gap-2">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  checked={shown.includes(one)}
                  onChange={() => turn(one.id)}
                />
                <span className={`truncate ${shown.includes(one) ? "marked" : ""}`}>{String(one.dials.sample)}</span>
                <span className="figures ml-auto whitespace-nowrap text-[11px] text-[var(--mute)]">
                  {lengthOf(one)}
                </span>
              </label>
              <button
                type="button"
                className="min-h-6 min-w-6"
                aria-label={`Remove the reading of ${one.dials.sample}, ${lengthOf(one)}`}
                onClick={() => removeScan(one.id)}
              >
                ×
              </button>
            </li>
          ))}
        </ul>
      </div>
      <div className="flex min-w-0 grow flex-col gap-2 overflow-y-auto p-3">
        {shown.length > 0 && (
          <>
            <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
              <h2 className="font-semibold">{perCm ? "Absorbance of 1 cm" : "Absorbance"}</h2>
              <label className="flex items-center gap-1.5" title="Bouguer: what two lengths give for 1 cm is the same">
                <input
                  type="checkbox"
                  className="toggle toggle-xs"
                  checked={perCm}
                  onChange={(e) => setPerCm(e.target.checked)}
                />
                for 1 cm
              </label>
              <span className="ml-auto flex items-center gap-3">
                {(["csv", "spdx"] as const).map((ending) => (
                  <a key={ending} className="hover:underline" href={`/devices/scans/${shown[0].id}.${ending}`} download>
                    {ending.toUpperCase()}
                  </a>
                ))}
                <button
                  type="button"
                  className="btn btn-xs bg-marker text-[#1d1d1d]"
                  onClick={async () => (await toMaterial(catalogue, shown[0])) && onBench()}
                >
                  To the interior
                </button>
                <button
                  type="button"
                  className="btn btn-xs"
                  title="One more dye of the liquid on the bench, to be mixed with others"
                  onClick={async () => (await toDye(catalogue, shown[0])) && onBench()}
                >
                  To a dye
                </button>
              </span>
            </div>
            <div className="h-80 border border-base-300 p-1">
              {compared && <CurvesPlot curves={plotOf(compared)} />}
            </div>
            <p role="status">{compared?.says}</p>
            {shown.some((one) => !one.baseline && !one.is_baseline) && (
              <p className="text-[var(--mute)]">
                Without a baseline the walls of the cuvette and the lamp are in it: read clear water first.
              </p>
            )}
          </>
        )}
      </div>
    </section>
  );
}

const lengthOf = (one: Scan) => `${say(one.length_cm * 10)} mm`;

/** What is to be plotted; a curve has gaps where it has not read. */
function plotOf({ places, curves }: Compared) {
  const all = curves.flatMap(({ values }) => values).filter((value) => value !== null);
  const high = Math.max(LEAST_RANGE, ...all) * 1.08;
  return {
    x: { label: "wavelength", unit: "nm", values: places },
    y: { label: "absorbance", low: Math.min(0, ...all) - 0.02 * high, high },
    curves: curves.map(({ label, values }) => ({ label, values: values as number[] })),
    marks: [],
    caption: "",
    varies: false,
  };
}
