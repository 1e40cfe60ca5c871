import { NumberField } from "../ui/NumberField";
import { MOST_ALONG, type Turnable } from "./axes";
import { DialOptions } from "./DialOptions";

/** A dial that is to be turned: which, from where to where, in how many pictures. */
export interface Wanted {
  key: string;
  low: number;
  high: number;
  count: number;
}

interface AxisChooserProps {
  label: string;
  all: Turnable[];
  wanted?: Wanted;
  onChange: (wanted?: Wanted) => void;
  mayBeNone?: boolean;
}

const USUAL = 5;

export function AxisChooser({ label, all, wanted, onChange, mayBeNone }: AxisChooserProps) {
  const choose = (key: string) => {
    const one = all.find((each) => each.key === key);
    if (!one) return onChange(undefined);
    onChange({ key, low: one.about.low ?? 0, high: one.about.high ?? 1, count: wanted?.count ?? USUAL });
  };
  return (
    <fieldset aria-label={label}>
      <legend className="font-semibold">{label}</legend>
      <select
        className="select select-xs w-full bg-transparent"
        aria-label={`${label}: dial`}
        value={wanted?.key ?? ""}
        onChange={(e) => choose(e.target.value)}
      >
        <option value="">{mayBeNone ? "nothing: a strip" : "choose a dial"}</option>
        <DialOptions all={all} />
      </select>
      {wanted && (
        <div className="mt-1 flex items-center gap-1">
          <NumberField label={`${label}: from`} value={wanted.low} onChange={(low) => onChange({ ...wanted, low })} />
          to
          <NumberField label={`${label}: to`} value={wanted.high} onChange={(high) => onChange({ ...wanted, high })} />
          in
          <NumberField
            label={`${label}: pictures`}
            value={wanted.count}
            onChange={(count) =>
              onChange({ ...wanted, count: Math.min(Math.max(Math.round(count), mayBeNone ? 2 : 3), MOST_ALONG) })
            }
          />
        </div>
      )}
    </fieldset>
  );
}
