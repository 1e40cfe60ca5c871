import type { Turnable } from "./axes";

/** The dials that may be turned, by whose they are, to stand in a list to choose from. */
export function DialOptions({ all }: { all: Turnable[] }) {
  const owners = [...new Set(all.map((one) => one.owner))];
  return owners.map((owner) => (
    <optgroup key={owner} label={owner}>
      {all
        .filter((one) => one.owner === owner)
        .map((one) => (
          <option key={one.key} value={one.key}>
            {one.label}
          </option>
        ))}
    </optgroup>
  ));
}
