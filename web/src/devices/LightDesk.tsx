import { useState } from "react";
import { dialsOf, dialValue, effective } from "../api/catalogue";
import { api, type DialValue, type LightRead, type Scan, wordsOf } from "../api/client";
import { useDocuments } from "../bench/documents";
import { CurvesPlot } from "../gauges/CurvesPlot";
import { FreeDial } from "../ui/Dial";
import { KeepCurve } from "../ui/KeepCurve";
import { tell } from "../ui/told";
import type { DeskProps } from "./Desk";

const MOST_KEPT = 4;

interface Shown {
  number: number;
  stage: string;
  where: string;
  read: LightRead;
}

/** A device that is held at a place of the stage on the bench; the last readings stand below one another. */
export function LightDesk({ device, chooser }: DeskProps) {
  const [dials, setDials] = useState<Record<string, DialValue>>({});
  const [shown, show] = useState<Shown[]>([]);
  const part = { dials };
  const dialled = effective(dialsOf(device), part);
  const read = async () => {
    const { stage } = useDocuments.getState();
    const { data, error } = await api.POST("/api/devices/light", { body: { stage, dials: dials as Scan["dials"] } });
    if (!data) return tell(wordsOf(error));
    const where = dialled
      .map((about) => `${about.label.toLowerCase()} ${dialValue(part, about)} ${about.unit}`.trim())
      .join(", ");
    show((old) =>
      [{ number: (old[0]?.number ?? 0) + 1, stage: stage.name, where, read: data }, ...old].slice(0, MOST_KEPT),
    );
  };
  return (
    <section className="flex h-full min-w-0" aria-label="Desk">
      <div className="flex w-[17rem] shrink-0 flex-col gap-2 overflow-y-auto border-r border-base-300 p-3">
        {chooser}
        <p className="text-[var(--mute)]">{device.help}</p>
        {dialled.map((about) => (
          <FreeDial
            key={about.name}
            about={about}
            value={dialValue(part, about)}
            onChange={(value) => setDials({ ...dials, [about.name]: value })}
          />
        ))}
        <button type="button" className="btn btn-sm bg-marker text-[#1d1d1d]" onClick={read}>
          Read it
        </button>
      </div>
      <div className="flex min-w-0 grow flex-col gap-2 overflow-y-auto p-3">
        {shown.length === 0 && (
          <p className="text-[var(--mute)]">Hold it somewhere, and read the light of the stage on the bench.</p>
        )}
        {shown.length > 0 && (
          <div className="h-72 border border-base-300 p-1">
            <CurvesPlot curves={plotOf(shown)} />
          </div>
        )}
        <ol aria-label="Light read">
          {shown.map((one) => (
            <li key={one.number} className="border-b border-base-300 py-1">
              <span className="figures mr-2">{one.number}</span>
              <b className="figures text-[15px]">{one.read.says}</b>
              <p className="text-[var(--mute)]">
                {one.stage}: {one.where}
              </p>
              <KeepCurve
                points={one.read.places.map((nm, k) => [nm, one.read.irradiance[k]])}
                quantity="irradiance"
                says={`Light ${one.number} of ${one.stage}`}
              />
            </li>
          ))}
        </ol>
      </div>
    </section>
  );
}

function plotOf(shown: Shown[]) {
  const high = Math.max(1e-6, ...shown.flatMap(({ read }) => read.irradiance)) * 1.08;
  return {
    x: { label: "wavelength", unit: "nm", values: shown[0].read.places },
    y: { label: "light", low: 0, high },
    curves: shown.map(({ number, read }) => ({ label: String(number), values: read.irradiance })),
    marks: [],
    caption: "",
    varies: false,
  };
}
