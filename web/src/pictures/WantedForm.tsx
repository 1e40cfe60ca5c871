import { useCatalogue } from "../api/catalogue";
import { useDocuments } from "../bench/documents";
import { useLive } from "../bench/live";
import { NumberField } from "../ui/NumberField";
import { limited, whole } from "../ui/numbers";
import { useMotion } from "./motion";
import { estimatedSeconds, heightOf, inWords, useWanted } from "./wanted";

const LARGEST = 8192;

/** How large the picture is to be, and how far it is to go; whatever is met first ends it. */
export function WantedForm({ aspect }: { aspect: number }) {
  const wanted = useWanted();
  const set = useWanted.setState;
  const shape = useDocuments((s) => s.stage.shape);
  const shapes = useCatalogue().shapes;
  useLive((s) => s.frame);
  const height = heightOf(wanted.width, aspect);
  const seconds = estimatedSeconds(wanted, aspect);
  const moves = useMotion((s) => s.moves);
  const isOpenEnded = !moves && wanted.noise == null && wanted.minutes == null && wanted.samples == null;
  return (
    <fieldset className="flex flex-col gap-1.5" aria-label="How it is to be made">
      <Row says="width">
        <NumberField
          label="Width in pixels"
          value={wanted.width}
          onChange={(v) => set({ width: whole(v, 16, Math.min(LARGEST, LARGEST * Math.min(aspect, 1))) })}
        />
        <span className="figures">× {height}</span>
        <span className="ml-auto text-[var(--mute)]">{shapes.find(({ name }) => name === shape)?.name}</span>
      </Row>
      <Limit
        says="until noise is"
        label="Noise, %"
        value={wanted.noise == null ? null : 100 * wanted.noise}
        usual={2}
        unit="%"
        onChange={(v) => set({ noise: v == null ? null : limited(v, 0.1, 100) / 100 })}
      />
      {!moves && (
        <Limit
          says="or after"
          label="Minutes"
          value={wanted.minutes ?? null}
          usual={10}
          unit="min"
          onChange={(v) => set({ minutes: v == null ? null : limited(v, 0.05, 100_000) })}
        />
      )}
      <Limit
        says="or at"
        label="Samples"
        value={wanted.samples ?? null}
        usual={256}
        unit="samples"
        onChange={(v) => set({ samples: v == null ? null : whole(v, 1, 1_000_000) })}
      />
      <Row says="bounces">
        <NumberField
          label="Most bounces"
          value={wanted.most_bounces}
          onChange={(v) => set({ most_bounces: whole(v, 1, 1024) })}
        />
        seed
        <NumberField label="Seed" value={wanted.seed} onChange={(v) => set({ seed: whole(v, 1, 2 ** 31 - 1) })} />
      </Row>
      <Limit
        says="matt at most"
        label="Matt bounces"
        value={wanted.most_matt ?? null}
        usual={8}
        unit="times"
        onChange={(v) => set({ most_matt: v == null ? null : whole(v, 1, 255) })}
      />
      <Limit
        says="scattered"
        label="Scattered in matter"
        value={wanted.most_within ?? null}
        usual={16}
        unit="times at most"
        onChange={(v) => set({ most_within: v == null ? null : whole(v, 1, 127) })}
      />
      <Tick
        says="noise that is left is taken out"
        on={wanted.smoothed ?? true}
        onChange={(smoothed) => set({ smoothed })}
      />
      <Tick says="EXR in half precision" on={wanted.half ?? false} onChange={(half) => set({ half })} />
      {!moves && (
        <Tick
          says="shadow and caustic on the floor by themselves (twice the work)"
          on={wanted.on_floor ?? false}
          onChange={(on_floor) => set({ on_floor })}
        />
      )}
      {!moves && (
        <Tick
          says="each light by itself (at most as many times the work as there are lights)"
          on={wanted.by_light ?? false}
          onChange={(by_light) => set({ by_light })}
        />
      )}
      <p role="status" className="text-[var(--mute)]">
        {isOpenEnded
          ? "It goes on until you stop it."
          : seconds === undefined
            ? "How long it takes is told when the bench has a few samples."
            : `About ${inWords(seconds)}, by the picture on the bench.`}
      </p>
    </fieldset>
  );
}

function Row({ says, children }: { says: string; children: React.ReactNode }) {
  return (
    <div className="flex min-h-7 items-center gap-1.5">
      <span className="w-20 shrink-0">{says}</span>
      {children}
    </div>
  );
}

interface LimitProps {
  says: string;
  label: string;
  value: number | null;
  /** What it begins with when it is switched on. */
  usual: number;
  unit: string;
  onChange: (value: number | null) => void;
}

function Limit({ says, label, value, usual, unit, onChange }: LimitProps) {
  return (
    <Row says={says}>
      <input
        type="checkbox"
        className="checkbox checkbox-xs"
        aria-label={`Ends by ${label.toLowerCase()}`}
        checked={value != null}
        onChange={(e) => onChange(e.target.checked ? usual : null)}
      />
      {value != null && <NumberField label={label} value={Number(value.toPrecision(4))} onChange={onChange} />}
      <span className={value == null ? "text-[var(--mute)]" : ""}>{unit}</span>
    </Row>
  );
}

function Tick({ says, on, onChange }: { says: string; on: boolean; onChange: (on: boolean) => void }) {
  return (
    <label className="flex min-h-6 items-start gap-1.5">
      <input
        type="checkbox"
        className="checkbox checkbox-xs mt-0.5"
        checked={on}
        onChange={(e) => onChange(e.target.checked)}
      />
      {says}
    </label>
  );
}
