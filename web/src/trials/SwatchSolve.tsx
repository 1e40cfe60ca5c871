import { useEffect, useState } from "react";
import { useCatalogue } from "../api/catalogue";
import { api, type Band, type Solved, wordsOf } from "../api/client";
import { blankBand, changeMaterial, useDocuments } from "../bench/documents";
import { withBand } from "../section/order";
import { fromHex, toHex } from "../ui/colors";
import { NumberField } from "../ui/NumberField";
import { tell } from "../ui/told";
import { changeSwatch, useSwatches } from "./swatches";

/** A thin and a thick colour, each with its depth, and the absorption that has both. */
export function SwatchSolve() {
  const catalogue = useCatalogue();
  const swatches = useSwatches((s) => s.swatches);
  const [solved, setSolved] = useState<Solved>();
  const [fault, setFault] = useState("");
  const [first, second] = swatches;
  useEffect(() => {
    let isNewest = true;
    api.POST("/api/trials/solve", { body: { first, second } }).then(({ data, error }) => {
      if (!isNewest) return;
      setSolved(data as Solved | undefined);
      setFault(data ? "" : wordsOf(error));
    });
    return () => {
      isNewest = false;
    };
  }, [first, second]);
  const put = () => {
    if (!solved) return;
    const { band, dials } = solved;
    const { bands } = useDocuments.getState().material.section;
    const own = bands.find((one) => one.kind === band);
    const next = own
      ? bands.map((one) => (one === own ? { ...one, on: true, dials: { ...one.dials, ...dials } } : one))
      : withBand(catalogue, bands, blankBand(band, band, dials as Band["dials"]));
    if (!next) return tell("This section has no room for an absorbing band: take what excludes it off first.");
    changeMaterial((material) => ({
      ...material,
      section: { ...material.section, bands: next },
      wires: material.wires.filter(({ target }) => target.part !== own?.id || !(target.dial in dials)),
    }));
    tell("The interior absorbs as the two swatches say; the ladder shows both.");
  };
  return (
    <section aria-label="Two swatches">
      <h2 className="font-semibold">Two swatches</h2>
      {swatches.map((one, i) => (
        <div key={i === 0 ? "thin" : "thick"} className="flex items-center gap-1.5 py-0.5">
          <input
            type="color"
            className="h-6 w-9 border border-base-content"
            aria-label={i ? "Thick colour" : "Thin colour"}
            value={toHex(one.color)}
            onChange={(e) => changeSwatch(i, { color: fromHex(e.target.value) ?? one.color })}
          />
          at
          <NumberField
            label={i ? "Thick depth" : "Thin depth"}
            value={one.depth}
            onChange={(depth) => changeSwatch(i, { depth })}
          />
          cm
          {solved && (
            <span
              className="ml-auto h-6 w-9 border border-base-content"
              style={{ background: toHex(solved.colors[i]) }}
              title={`comes out so: ${solved.differences[i].toFixed(1)} off (CIE DE2000)`}
            />
          )}
        </div>
      ))}
      {fault && <p role="alert">{fault}</p>}
      {solved?.says.map((line) => (
        <p key={line} role="note">
          {line}
        </p>
      ))}
      {solved && solved.says.length === 0 && <p className="text-[var(--mute)]">Both are met.</p>}
      <button type="button" className="btn btn-xs mt-1" disabled={!solved} onClick={put}>
        Put into the interior
      </button>
    </section>
  );
}
