import type { Lamp, Seen } from "../api/client";
import { changePart, useDocuments } from "../bench/documents";

const SEERS: [keyof Seen, string, string][] = [
  ["camera", "camera", "Seen by the camera"],
  ["reflections", "mirror", "Seen by reflections and refractions"],
  ["shadows", "shadow", "Casts shadows; for a lamp: its light is stopped by objects"],
];

/** The table "who sees what", and which lamp lights which object. */
export function WhoSees() {
  const { objects, lamps } = useDocuments((s) => s.stage);
  const all = [...objects.map((one) => one.id), "floor"];
  const rows = [
    ...objects.map((one, i) => ({
      path: `objects.${i}`,
      name: one.name || one.form.kind.replaceAll("_", " "),
      seen: one.seen,
    })),
    ...lamps.map((one, i) => ({ path: `lamps.${i}`, name: one.name || one.kind, seen: one.seen })),
  ];
  const light = (lamp: Lamp, i: number, id: string, on: boolean) => {
    const now = new Set(lamp.lights ?? all);
    if (on) now.add(id);
    else now.delete(id);
    const lights = now.size === all.length ? null : all.filter((one) => now.has(one));
    changePart(`lamps.${i}`, (one) => ({ ...one, lights }));
  };
  return (
    <section className="border-t border-base-content p-3" aria-label="Who sees what">
      <table className="w-full text-[11.5px]">
        <thead>
          <tr className="text-left">
            <th className="font-semibold">Who sees what</th>
            {SEERS.map(([key, label, help]) => (
              <th key={key} className="px-1 font-normal" title={help}>
                {label}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.path}>
              <td className="max-w-24 truncate">{row.name}</td>
              {SEERS.map(([key, , help]) => (
                <td key={key} className="px-1">
                  <input
                    type="checkbox"
                    className="checkbox checkbox-md"
                    aria-label={`${row.name}: ${help}`}
                    checked={row.seen[key]}
                    onChange={(e) =>
                      changePart(row.path, (one) => ({ ...one, seen: { ...row.seen, [key]: e.target.checked } }))
                    }
                  />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {lamps.length > 0 && (
        <table className="mt-3 w-full text-[11.5px]">
          <thead>
            <tr className="text-left">
              <th className="font-semibold">Lights</th>
              {[...objects.map((one) => one.name || one.form.kind.replaceAll("_", " ")), "floor"].map((name, i) => (
                <th key={all[i]} className="max-w-16 truncate px-1 font-normal" title={name}>
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {lamps.map((lamp, i) => (
              <tr key={lamp.id}>
                <td className="max-w-24 truncate">{lamp.name || lamp.kind}</td>
                {all.map((id) => (
                  <td key={id} className="px-1">
                    <input
                      type="checkbox"
                      className="checkbox checkbox-md"
                      aria-label={`${lamp.name || lamp.kind} lights ${id}`}
                      checked={lamp.lights?.includes(id) ?? true}
                      onChange={(e) => light(lamp, i, id, e.target.checked)}
                    />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
