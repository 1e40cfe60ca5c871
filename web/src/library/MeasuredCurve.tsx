import { CurvesPlot } from "../gauges/CurvesPlot";
import { say } from "../ui/numbers";

/** A measured quantity over wavelength (nm). */
export function MeasuredCurve({
  title,
  wavelengths,
  values,
}: {
  title: string;
  wavelengths: number[];
  values: number[];
}) {
  const low = Math.min(...values);
  const high = Math.max(...values);
  const room = Math.max((high - low) * 0.2, high * 1e-3, 1e-9);
  const last = wavelengths.length - 1;
  return (
    <div className="my-2">
      <CurvesPlot
        curves={{
          x: { label: "wavelength", unit: "nm", values: wavelengths },
          y: { label: title, low: low - room, high: high + room },
          curves: [{ label: title, values }],
          marks: [{ x: 587.6, label: "d 587.6 nm" }],
          caption: `${title}: ${say(values[0])} at ${wavelengths[0]} nm, ${say(values[last])} at ${wavelengths[last]} nm.`,
          varies: false,
        }}
      />
    </div>
  );
}
