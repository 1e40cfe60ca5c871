import { useState } from "react";
import { useCatalogue } from "../api/catalogue";
import { say } from "../ui/numbers";
import { MeasuredCurve } from "./MeasuredCurve";
import { Seek } from "./Seek";
import { putOnBench, useScatterers } from "./substances";

/** Measured matter that scatters light: how far light goes in it until it has lost its way, its curves, its source. */
export function Scatterers() {
  const [sought, setSought] = useState("");
  const [name, setName] = useState("");
  const [says, setSays] = useState("");
  const all = useScatterers();
  const catalogue = useCatalogue();
  const shown = all.filter((one) => one.title.toLowerCase().includes(sought.toLowerCase()));
  const chosen = all.find((one) => one.name === name) ?? all[0];
  return (
    <div className="flex h-full bg-base-100 text-base-content">
      <section className="flex min-w-0 grow flex-col" aria-label="Matter that scatters">
        <Seek
          title="Matter that scatters"
          placeholder="seek by name"
          sought={sought}
          onSeek={setSought}
          shown={shown.length}
          of={all.length}
        />
        <div className="min-h-0 grow overflow-y-auto px-3">
          <table className="w-full">
            <thead className="sticky top-0 bg-base-100 text-left text-[var(--mute)]">
              <tr>
                <th className="py-1 font-normal">matter</th>
                <th className="text-right font-normal">light keeps its way for</th>
                <th className="text-right font-normal">and is absorbed after</th>
              </tr>
            </thead>
            <tbody>
              {shown.map((one) => (
                <tr key={one.name} className="border-t border-base-200">
                  <td>
                    <button
                      type="button"
                      className="min-h-6 text-left"
                      aria-pressed={one === chosen}
                      onClick={() => setName(one.name)}
                    >
                      <span className={one === chosen ? "marked" : "hover:underline"}>{one.title}</span>
                    </button>
                  </td>
                  <td className="figures text-right">{length(one.wavelengths_nm, one.reduced_per_mm)}</td>
                  <td className="figures text-right">{length(one.wavelengths_nm, one.absorbed_per_mm)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </section>
      {chosen && (
        <aside className="w-[46%] shrink-0 overflow-y-auto border-l border-base-content p-3" aria-label={chosen.title}>
          <h2 className="text-[14px] font-semibold">{chosen.title}</h2>
          {[
            { of: "Reduced scattering", perMm: chosen.reduced_per_mm },
            { of: "Absorption", perMm: chosen.absorbed_per_mm },
          ].map(({ of, perMm }) => {
            const isFaint = Math.max(...perMm) < FAINT_PER_MM;
            return (
              <MeasuredCurve
                key={of}
                title={`${of} per ${isFaint ? "m" : "mm"}`}
                wavelengths={chosen.wavelengths_nm}
                values={isFaint ? perMm.map((one) => 1000 * one) : perMm}
              />
            );
          })}
          <button
            type="button"
            className="btn btn-sm my-2 bg-marker text-[#1d1d1d]"
            onClick={() => setSays(putOnBench(chosen, catalogue))}
          >
            Put on the bench
          </button>
          {says && <p role="status">{says}</p>}
          <p className="mt-2 text-[11px] text-[var(--mute)]">
            Source: {chosen.source} {chosen.licence}.
          </p>
        </aside>
      )}
    </div>
  );
}

const MIDDLE_NM = 550;
const FAINT_PER_MM = 1e-3;

/** The mean free path in the middle of the spectrum, in words; per_mm: measured at some wavelengths (nm). */
function length(nm: number[], perMm: number[]): string {
  const after = nm.findIndex((one) => one >= MIDDLE_NM);
  const k = Math.max(after, 1);
  const share = Math.min(Math.max((MIDDLE_NM - nm[k - 1]) / (nm[k] - nm[k - 1]), 0), 1);
  const value = perMm[k - 1] + (perMm[k] - perMm[k - 1]) * share;
  if (value <= 1e-9) return "never";
  return value < FAINT_PER_MM ? `${say(1e-3 / value)} m` : `${say(1 / value)} mm`;
}
