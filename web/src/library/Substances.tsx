import type { Substance } from "../api/client";
import { MeasuredCurve } from "./MeasuredCurve";
import { MeasuredShelf } from "./MeasuredShelf";
import { useSubstances } from "./substances";

const COLUMNS = [
  { title: "family", says: (one: Substance) => one.family },
  { title: "index n_d", says: (one: Substance) => one.n_d.toFixed(4), isFigure: true },
  {
    title: "Abbe number",
    says: (one: Substance) => (one.abbe_number ? one.abbe_number.toFixed(1) : "–"),
    isFigure: true,
  },
];

/** Measured matter by index. */
export function Substances() {
  const all = useSubstances().toSorted(
    (a, b) => Number(b.lets_light_through) - Number(a.lets_light_through) || a.n_d - b.n_d,
  );
  return (
    <MeasuredShelf
      title="Substances"
      placeholder="seek by name or family"
      all={all}
      first="crown_517642"
      wordsOf={(one) => `${one.title} ${one.family}`}
      columns={COLUMNS}
    >
      {(chosen) => (
        <>
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
        </>
      )}
    </MeasuredShelf>
  );
}

/** 4 pi k / wavelength, in 1/m. */
const perMetre = (k: number[], nm: number[]) => k.map((v, i) => (4 * Math.PI * v) / (nm[i] * 1e-9));
