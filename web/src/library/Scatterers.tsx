import type { Scatterer } from "../api/client";
import { say } from "../ui/numbers";
import { MeasuredCurve } from "./MeasuredCurve";
import { MeasuredShelf } from "./MeasuredShelf";
import { useScatterers } from "./substances";

const COLUMNS = [
  {
    title: "light keeps its way for",
    says: (one: Scatterer) => length(one.wavelengths_nm, one.reduced_per_mm),
    isFigure: true,
  },
  {
    title: "and is absorbed after",
    says: (one: Scatterer) => length(one.wavelengths_nm, one.absorbed_per_mm),
    isFigure: true,
  },
];

/** Measured matter that scatters light, by how far light goes in it until it has lost its way. */
export function Scatterers() {
  return (
    <MeasuredShelf
      title="Matter that scatters"
      placeholder="seek by name"
      all={useScatterers()}
      first="whole-milk"
      wordsOf={(one) => one.title}
      columns={COLUMNS}
    >
      {({ wavelengths_nm, reduced_per_mm, absorbed_per_mm }) => (
        <>
          <PerLength of="Reduced scattering" wavelengths={wavelengths_nm} perMm={reduced_per_mm} />
          <PerLength of="Absorption" wavelengths={wavelengths_nm} perMm={absorbed_per_mm} />
        </>
      )}
    </MeasuredShelf>
  );
}

/** A curve per mm, or per m where it is faint. */
function PerLength({ of, wavelengths, perMm }: { of: string; wavelengths: number[]; perMm: number[] }) {
  const isFaint = Math.max(...perMm) < FAINT_PER_MM;
  return (
    <MeasuredCurve
      title={`${of} per ${isFaint ? "m" : "mm"}`}
      wavelengths={wavelengths}
      values={isFaint ? perMm.map((one) => 1000 * one) : perMm}
    />
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
