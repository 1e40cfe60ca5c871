import { useState } from "react";
import { useCatalogue } from "../api/catalogue";
import { MeasuredCurve } from "./MeasuredCurve";
import { Seek } from "./Seek";
import { putOnBench, useSubstances } from "./substances";

/** Measured matter by index: search it, look at its curve, put it on the bench with one click. */
export function Substances() {
  const [sought, setSought] = useState("");
  const [name, setName] = useState("crown_517642");
  const [says, setSays] = useState("");
  const all = useSubstances();
  const catalogue = useCatalogue();
  const shown = all
    .filter((one) => `${one.title} ${one.family}`.toLowerCase().includes(sought.toLowerCase()))
    .sort((a, b) => Number(b.lets_light_through) - Number(a.lets_light_through) || a.n_d - b.n_d);
  const chosen = all.find((one) => one.name === name);
  return (
    <div className="flex h-full bg-base-100 text-base-content">
      <section className="flex min-w-0 grow flex-col" aria-label="Substances">
        <Seek
          title="Substances"
          placeholder="seek by name or family"
          sought={sought}
          onSeek={setSought}
          shown={shown.length}
          of={all.length}
        />
        <div className="min-h-0 grow overflow-y-auto px-3">
          <table className="w-full">
            <thead className="sticky top-0 bg-base-100 text-left text-[var(--mute)]">
              <tr>
                <th className="py-1 font-normal">substance</th>
                <th className="font-normal">family</th>
                <th className="text-right font-normal">index n_d</th>
                <th className="text-right font-normal">Abbe number</th>
              </tr>
            </thead>
            <tbody>
              {shown.map((one) => (
                <tr key={one.name} className="border-t border-base-200">
                  <td>
                    <button
                      type="button"
                      className="min-h-6 text-left"
                      aria-pressed={one.name === name}
                      onClick={() => setName(one.name)}
                    >
                      <span className={one.name === name ? "marked" : "hover:underline"}>{one.title}</span>
                    </button>
                  </td>
                  <td className="text-[var(--mute)]">{one.family}</td>
                  <td className="figures text-right">{one.n_d.toFixed(4)}</td>
                  <td className="figures text-right">{one.abbe_number ? one.abbe_number.toFixed(1) : "–"}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </section>
      {chosen && (
        <aside className="w-[46%] shrink-0 overflow-y-auto border-l border-base-content p-3" aria-label={chosen.title}>
          <h2 className="text-[14px] font-semibold">{chosen.title}</h2>
          <p className="figures">
            n_d {chosen.n_d.toFixed(4)}
            {chosen.abbe_number ? `, Abbe number ${chosen.abbe_number.toFixed(1)}` : ""}
          </p>
          <MeasuredCurve title="Index over wavelength" wavelengths={chosen.wavelengths_nm} values={chosen.n} />
          {chosen.k && !chosen.lets_light_through && (
            <MeasuredCurve title="Extinction over wavelength" wavelengths={chosen.wavelengths_nm} values={chosen.k} />
          )}
          {chosen.k && chosen.lets_light_through && (
            <MeasuredCurve
              title="Absorption per metre"
              wavelengths={chosen.wavelengths_nm}
              values={perMetre(chosen.k, chosen.wavelengths_nm)}
            />
          )}
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

/** 4 pi k / wavelength, in 1/m. */
const perMetre = (k: number[], nm: number[]) => k.map((v, i) => (4 * Math.PI * v) / (nm[i] * 1e-9));
