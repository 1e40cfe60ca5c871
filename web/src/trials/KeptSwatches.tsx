import { useQuery } from "@tanstack/react-query";
import { api, type KeptSwatch, type Rgb, wordsOf } from "../api/client";
import { readAnew } from "../api/queries";
import { toHex } from "../ui/colors";
import { tell } from "../ui/told";
import { changeSwatch, useRoles } from "./swatches";

const KEY = ["swatches"];

/** Keep a colour under a name. */
export async function keepSwatch(name: string, color: Rgb): Promise<void> {
  const { data, error } = await api.POST("/api/swatches", { body: { name, color } });
  tell(data ? `${name} is kept with your swatches.` : wordsOf(error));
  readAnew(KEY);
}

/** The colours that were kept; each can be taken as one of the swatches of the matter that is looked for. */
export function KeptSwatches() {
  const roles = useRoles();
  const { data: kept = [] } = useQuery({
    queryKey: KEY,
    queryFn: async () => ((await api.GET("/api/swatches")).data ?? []) as KeptSwatch[],
  });
  const remove = async (swatch_id: string) => {
    await api.DELETE("/api/swatches/{swatch_id}", { params: { path: { swatch_id } } });
    readAnew(KEY);
  };
  if (kept.length === 0) return null;
  return (
    <section aria-label="Kept swatches">
      <h2 className="font-semibold">Kept swatches</h2>
      <ul>
        {kept.map((one) => (
          <li key={one.id} className="flex items-center gap-2 py-0.5">
            <span
              className="h-5 w-8 shrink-0 border border-base-content"
              style={{ background: toHex(one.color as Rgb) }}
            />
            <span className="grow truncate" title={`${one.name}, ${toHex(one.color as Rgb)}`}>
              {one.name}
            </span>
            {roles.map((role) => (
              <button
                type="button"
                key={role}
                className="hover:underline"
                aria-label={`${one.name} as ${role}`}
                onClick={() => changeSwatch(role, { color: one.color as Rgb })}
              >
                {role}
              </button>
            ))}
            <button
              type="button"
              className="hover:underline"
              aria-label={`Remove ${one.name}`}
              onClick={() => remove(one.id)}
            >
              remove
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
