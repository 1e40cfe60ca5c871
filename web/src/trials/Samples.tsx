import { useQuery } from "@tanstack/react-query";
import { api, type Difference, type Rgb } from "../api/client";
import { toHex } from "../ui/colors";
import { keepSwatch } from "./KeptSwatches";
import { whiteOf } from "./sampling";
import { changeSwatch, useRoles } from "./swatches";

export interface Pair {
  id: number;
  ours: Rgb;
  theirs: Rgb;
}

interface SamplesProps {
  pairs: Pair[];
  /** What to do when there are none. */
  hint: string;
  onWhite: (white: Rgb) => void;
  onRemove: (id: number) => void;
}

const clipped = (color: Rgb) => color.map((v) => Math.min(Math.max(v, 0), 1)) as Rgb;

/** Colours of the picture and of the photograph at the same places, and what the one has to the other. */
export function Samples({ pairs, hint, onWhite, onRemove }: SamplesProps) {
  const roles = useRoles();
  const { data: differences = [] } = useQuery({
    queryKey: ["differences", pairs],
    enabled: pairs.length > 0,
    queryFn: async () => {
      const body = { pairs: pairs.map((one) => ({ first: one.ours, second: one.theirs })) };
      return ((await api.POST("/api/trials/differences", { body })).data ?? []) as Difference[];
    },
  });
  return (
    <table className="w-full border-t border-base-300 text-[12px]">
      <caption className="px-3 py-1 text-left text-[var(--mute)]">
        {pairs.length ? "Samples: the picture, the photograph, and what the picture has to it" : hint}
      </caption>
      <tbody>
        {pairs.map((one, i) => (
          <tr key={one.id} className="border-t border-base-200">
            <td className="px-3 py-1">{one.id}</td>
            {(["ours", "theirs"] as const).map((whose) => (
              <td key={whose}>
                <span
                  className="mr-1 inline-block h-4 w-8 border border-base-content align-middle"
                  style={{ background: toHex(one[whose]) }}
                />
                <span className="figures">{toHex(one[whose])}</span>
              </td>
            ))}
            <td className="figures whitespace-nowrap pr-3">
              {differences[i] && `DE2000 ${differences[i].delta_e.toFixed(1)}`}
            </td>
            <td>{differences[i]?.says}</td>
            <td className="whitespace-nowrap text-right">
              <Act says="white" onAct={() => onWhite(whiteOf(one.theirs))} />
              {roles.map((role) => (
                <Act key={role} says={role} onAct={() => changeSwatch(role, { color: clipped(one.theirs) })} />
              ))}
              <Act
                says="keep"
                onAct={() => keepSwatch(`Sample ${one.id}, ${toHex(one.theirs)}`, clipped(one.theirs))}
              />
              <Act says="remove" onAct={() => onRemove(one.id)} />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Act({ says, onAct }: { says: string; onAct: () => void }) {
  return (
    <button type="button" className="px-1.5 hover:underline" onClick={onAct}>
      {says}
    </button>
  );
}
