import { useQuery } from "@tanstack/react-query";
import { useCatalogue } from "../api/catalogue";
import { api, type Solved, wordsOf } from "../api/client";
import { takeOver } from "../section/takeOver";
import { fromHex, toHex } from "../ui/colors";
import { NumberField } from "../ui/NumberField";
import { tell } from "../ui/told";
import { changeSwatch, type Role, setScatters, useRoles, useSwatches } from "./swatches";

const LABELS: Record<Role, string> = { thin: "Thin", thick: "Thick", through: "Lit through" };

/** Colours, each with its depth, and the matter that has them all: what absorbs, or what absorbs and scatters. */
export function SwatchSolve() {
  const catalogue = useCatalogue();
  const { swatches, scatters, index, ground } = useSwatches();
  const roles = useRoles();
  const { data, isPlaceholderData } = useQuery({
    queryKey: ["solved", swatches, scatters, index, ground],
    queryFn: async () => {
      const { thin, thick, through } = swatches;
      const { data, error } = scatters
        ? await api.POST("/api/trials/solve-slabs", { body: { thin, thick, through, index, ground } })
        : await api.POST("/api/trials/solve", { body: { first: thin, second: thick } });
      return { solved: data as Solved | undefined, fault: data ? "" : wordsOf(error) };
    },
    placeholderData: (before) => before,
  });
  const { solved, fault } = (!isPlaceholderData && data) || {};
  const put = () => {
    if (!solved) return;
    if (takeOver(catalogue, solved)) tell("The interior is as the swatches say; the gauges show it.");
  };
  return (
    <section aria-label="Swatches to matter">
      <h2 className="font-semibold">Swatches to matter</h2>
      <label
        className="flex items-center gap-1.5 py-0.5"
        title="Wax, milk, skin: a third colour is that of light that comes through"
      >
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={scatters}
          onChange={(e) => setScatters(e.target.checked)}
        />
        it scatters
      </label>
      {roles.map((role, i) => (
        <div key={role} className="flex items-center gap-1.5 py-0.5">
          <span className="w-12 shrink-0 leading-tight">{LABELS[role].toLowerCase()}</span>
          <input
            type="color"
            className="h-6 w-9 shrink-0 border border-base-content"
            aria-label={`${LABELS[role]} colour`}
            value={toHex(swatches[role].color)}
            onChange={(e) => changeSwatch(role, { color: fromHex(e.target.value) ?? swatches[role].color })}
          />
          at
          <NumberField
            label={`${LABELS[role]} depth`}
            value={swatches[role].depth}
            onChange={(depth) => changeSwatch(role, { depth })}
          />
          cm
          {solved?.colors[i] && (
            <span
              className="ml-auto h-6 w-9 border border-base-content"
              style={{ background: toHex(solved.colors[i]) }}
              title={`comes out so: ${solved.differences[i].toFixed(1)} off (CIE DE2000)`}
            />
          )}
        </div>
      ))}
      {scatters && (
        <div
          className="flex items-center gap-1.5 py-0.5"
          title="Thin and thick are slabs lit from before, with this behind them"
        >
          before
          <select
            className="select select-xs w-auto bg-transparent"
            aria-label="Behind the slabs"
            value={ground}
            onChange={(e) => useSwatches.setState({ ground: e.target.value as typeof ground })}
          >
            <option value="dark">dark</option>
            <option value="white">white paper</option>
          </select>
          index
          <NumberField
            label="Index of the matter"
            value={index}
            onChange={(next) => useSwatches.setState({ index: Math.min(Math.max(next, 1), 4) })}
          />
        </div>
      )}
      {fault && <p role="alert">{fault}</p>}
      {solved?.says.map((line) => (
        <p key={line} role="note">
          {line}
        </p>
      ))}
      {!solved && !fault && <p className="text-[var(--mute)]">looking for it ...</p>}
      {solved && solved.says.length === 0 && (
        <p className="text-[var(--mute)]">{scatters ? "All three are met." : "Both are met."}</p>
      )}
      <button type="button" className="btn btn-xs mt-1" disabled={!solved} onClick={put}>
        Put into the interior
      </button>
    </section>
  );
}
