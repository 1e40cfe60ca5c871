import { api, type CurveToWrite, wordsOf } from "../api/client";
import { tell } from "./told";

type KeepCurveProps = Omit<CurveToWrite, "ending">;

/** A curve over wavelength into a file. */
export function KeepCurve(curve: KeepCurveProps) {
  const keep = async (ending: CurveToWrite["ending"]) => {
    const { data, error } = await api.POST("/api/curves/written", { body: { ...curve, ending } });
    if (!data) return tell(wordsOf(error));
    const link = document.createElement("a");
    link.href = URL.createObjectURL(new Blob([data.text]));
    link.download = `${curve.says.toLowerCase().replaceAll(/[^a-z0-9]+/g, "_")}.${ending}`;
    link.click();
    URL.revokeObjectURL(link.href);
  };
  return (
    <span className="flex items-center gap-3">
      keep as
      {(["csv", "spdx"] as const).map((ending) => (
        <button key={ending} type="button" className="min-h-6 underline" onClick={() => keep(ending)}>
          {ending.toUpperCase()}
        </button>
      ))}
    </span>
  );
}
