import { Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import { catalogueNow, skinsOf, useCatalogue } from "../api/catalogue";
import {
  api,
  type DialAbout,
  type Lamp,
  type Stage,
  type StageObject,
  type StageOut,
  type StagePart,
  wordsOf,
} from "../api/client";
import {
  addLamp,
  addStage,
  beginGesture,
  changePart,
  changeStage,
  endGesture,
  freeName,
  useDocuments,
} from "../bench/documents";
import { NumberDial } from "../ui/NumberDial";
import { useChosenPart } from "./chosen";
import { PartCard } from "./PartCard";
import { detach, wearMaterial } from "./wearing";

interface Materials {
  materials: { id: string; name: string }[];
}

/** The cards: a list of what is on the stage, and the chosen one with all its dials. */
export function StageCards({ materials }: Materials) {
  const stage = useDocuments((s) => s.stage);
  const { path, choose } = useChosenPart();
  const objectKey = Number(path.split(".")[1]);
  const object = path.startsWith("objects.") ? stage.objects[objectKey] : undefined;
  const lamp = path.startsWith("lamps.") ? stage.lamps[objectKey] : undefined;
  return (
    <div className="p-3">
      <StageName />
      <List title="Objects" onAdd={() => choose(addObject())}>
        {stage.objects.map((one, i) => (
          <Row
            key={one.id}
            path={`objects.${i}`}
            name={one.name || one.form.kind.replaceAll("_", " ")}
            on={one.on}
            onRemove={stage.objects.length > 1 ? () => removeObject(i) : undefined}
          />
        ))}
      </List>
      <List
        title="Lamps"
        onAdd={stage.lamps.length < 8 ? () => choose(addLamp(catalogueNow().plain.lamp as Lamp)) : undefined}
      >
        {stage.lamps.map((one, i) => (
          <Row
            key={one.id}
            path={`lamps.${i}`}
            name={one.name || one.kind}
            on={one.on}
            onRemove={() => changeStage((s) => ({ ...s, lamps: s.lamps.filter((_, k) => k !== i) }))}
          />
        ))}
      </List>
      <List title="Around">
        <Row path="surround" name="surround" on />
        <Row path="floor" name="floor" on={!!stage.floor} />
        <Row path="camera" name="camera" on />
      </List>
      <section className="mt-3 border-t border-base-content pt-2" aria-label="The chosen part">
        {object && <ObjectCard one={object} path={path} materials={materials} />}
        {lamp && (
          <>
            <Name path={path} value={lamp.name} />
            <PartCard path={path} of="lamp" part={lamp} />
          </>
        )}
        {path === "surround" && <SurroundCard stage={stage} />}
        {path === "floor" && <FloorCard floor={stage.floor} />}
        {path === "camera" && <PartCard path="camera" of="camera" part={stage.camera} />}
      </section>
    </div>
  );
}

function StageName() {
  const { stage, stageId } = useDocuments();
  const [says, setSays] = useState("");
  const copy = async () => {
    const document = { ...stage, name: `${stage.name}, copy`.slice(0, 120) };
    const { data, error } = await api.POST("/api/stages", { body: { document } });
    if (data) addStage(data as StageOut);
    setSays(data ? "" : wordsOf(error));
  };
  return (
    <div className="mb-2 flex items-center gap-2">
      <input
        key={stageId}
        className="min-w-0 grow border-b border-base-300 bg-transparent py-1 text-[14px] font-semibold"
        aria-label="Name of the stage"
        defaultValue={stage.name}
        onBlur={(e) =>
          e.target.value.trim() && changeStage((s) => ({ ...s, name: e.target.value.trim().slice(0, 120) }))
        }
        onKeyDown={(e) => e.stopPropagation()}
      />
      <button type="button" className="py-1 underline" onClick={copy}>
        copy this stage
      </button>
      {says && <p role="alert">{says}</p>}
    </div>
  );
}

function List({ title, onAdd, children }: { title: string; onAdd?: () => void; children: React.ReactNode }) {
  return (
    <section aria-label={title} className="mb-1">
      <h3 className="flex items-center justify-between text-[var(--mute)]">
        {title}
        {onAdd && (
          <button
            type="button"
            className="btn btn-ghost btn-xs btn-square"
            aria-label={`Add to ${title.toLowerCase()}`}
            onClick={onAdd}
          >
            <Plus size={13} />
          </button>
        )}
      </h3>
      <ul>{children}</ul>
    </section>
  );
}

function Row({ path, name, on, onRemove }: { path: string; name: string; on: boolean; onRemove?: () => void }) {
  const { path: chosen, choose } = useChosenPart();
  const switchable = /^(objects|lamps)\./.test(path);
  return (
    <li className="flex items-center gap-2">
      {switchable && (
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          aria-label={`${name} on`}
          checked={on}
          onChange={(e) => changePart(path, (one) => ({ ...one, on: e.target.checked }))}
        />
      )}
      <button
        type="button"
        className="min-h-6 grow text-left"
        aria-pressed={chosen === path}
        onClick={() => choose(path)}
      >
        <span className={chosen === path ? "marked" : ""}>{name}</span>
      </button>
      {onRemove && (
        <button
          type="button"
          className="btn btn-ghost btn-xs btn-square"
          aria-label={`Remove ${name}`}
          onClick={() => {
            choose("camera");
            onRemove();
          }}
        >
          <Trash2 size={12} />
        </button>
      )}
    </li>
  );
}

function Name({ path, value }: { path: string; value: string }) {
  return (
    <label className="flex items-center justify-between gap-2 py-1">
      Name
      <input
        key={path}
        className="w-40 border-b border-base-300 bg-transparent"
        defaultValue={value}
        onBlur={(e) => changePart(path, (one) => ({ ...one, name: e.target.value.slice(0, 120) }))}
        onKeyDown={(e) => e.stopPropagation()}
      />
    </label>
  );
}

const PLACE = (label: string, help: string, ends: [string, string], span = 30): DialAbout => ({
  type: "number",
  name: label,
  label,
  help,
  ends,
  unit: "cm",
  scale: "linear",
  low: -span,
  high: span,
  hard_low: -1e6,
  hard_high: 1e6,
  default: 0,
  standard: "",
  choices: [],
  offers: [],
  offered_by: "",
  drivable: false,
  joined: "",
  quantity: "",
  sloped: false,
  holds: "",
  accepts: "",
  when: null,
  beside: "",
});

/** A drag is undone in one step. */
const IN_ONE_STEP = { onBegin: beginGesture, onEnd: endGesture };

const AXES = [
  PLACE("Across", "To the left and right of the middle", ["left", "right"]),
  { ...PLACE("Height", "Of its lowest point over the stage", ["below", "above"]), low: 0 },
  PLACE("To the front", "Towards the front", ["behind", "before"]),
];
const TURN: DialAbout = { ...PLACE("Turned", "About the vertical", ["left", "right"], 180), unit: "deg" };
const TILT: DialAbout = { ...PLACE("Tilted", "Towards the front", ["back", "front"], 90), unit: "deg" };

function ObjectCard({ one, path, materials }: { one: StageObject; path: string } & Materials) {
  const { kinds } = useCatalogue();
  const form = kinds.find((kind) => kind.role === "form" && kind.name === one.form.kind);
  const parts = Object.keys(form?.rules.parts ?? {});
  return (
    <div>
      <Name path={path} value={one.name} />
      <PartCard path={`${path}.form`} of="form" part={one.form} label="Form" />
      {parts.map((part) => (
        <WearChoice key={part} one={one} part={part} path={path} materials={materials} only={parts.length === 1} />
      ))}
      {form?.rules.grows ? <SkinChoice one={one} path={path} /> : <Placing one={one} path={path} />}
    </div>
  );
}

/** The object that strands grow on; they stand and turn with it. */
function SkinChoice({ one, path }: { one: StageObject; path: string }) {
  const objects = useDocuments((s) => s.stage.objects);
  const skins = skinsOf(useCatalogue(), objects);
  return (
    <label
      className="flex items-center justify-between gap-2 py-1"
      title="They stand and turn with it, also when it is off"
    >
      Grow on
      <select
        className="select select-xs w-auto max-w-44 bg-transparent"
        value={one.skin ?? skins[0]?.id}
        onChange={(e) => changePart(path, (o) => ({ ...o, skin: e.target.value }))}
      >
        {skins.map((skin) => (
          <option key={skin.id} value={skin.id}>
            {skin.name || skin.form.kind.replaceAll("_", " ")}
          </option>
        ))}
      </select>
    </label>
  );
}

/** Where an object stands. */
function Placing({ one, path }: { one: StageObject; path: string }) {
  return (
    <div>
      {AXES.map((about, axis) => (
        <NumberDial
          key={about.name}
          about={about}
          value={one.at[axis]}
          onChange={(v) => changePart(path, (o) => ({ ...o, at: one.at.map((old, k) => (k === axis ? v : old)) }))}
          {...IN_ONE_STEP}
          compact
        />
      ))}
      <NumberDial
        about={TURN}
        value={one.turn}
        onChange={(v) => changePart(path, (o) => ({ ...o, turn: v }))}
        {...IN_ONE_STEP}
        compact
      />
      <NumberDial
        about={TILT}
        value={one.tilt}
        onChange={(v) => changePart(path, (o) => ({ ...o, tilt: v }))}
        {...IN_ONE_STEP}
        compact
      />
    </div>
  );
}

function WearChoice({
  one,
  part,
  path,
  materials,
  only,
}: { one: StageObject; part: string; path: string; only: boolean } & Materials) {
  const at = Number(path.split(".")[1]);
  const { material: worn, follows } = one.wears[part] ?? {};
  const followed = materials.find((m) => m.id === follows);
  return (
    <div className="py-1">
      <label className="flex items-center justify-between gap-2" title="A material of yours, or the one on the bench">
        {only ? "Made of" : `${part[0].toUpperCase()}${part.slice(1)} of`}
        <select
          className="select select-xs w-auto max-w-44 bg-transparent"
          value={worn ? (followed?.id ?? "other") : ""}
          onChange={(e) => wearMaterial(at, part, e.target.value)}
        >
          <option value="">material on the bench</option>
          {worn && !followed && <option value="other">{worn.name}</option>}
          {materials.map((m) => (
            <option key={m.id} value={m.id}>
              {m.name}
            </option>
          ))}
        </select>
      </label>
      {worn && (
        <p className="flex justify-end gap-2 text-[12px] opacity-80">
          {followed ? "follows it when it is saved" : "a copy of its own"}
          {followed && (
            <button
              type="button"
              className="underline"
              aria-label={`Detach what the ${part} is made of`}
              title="Keep it as it is now"
              onClick={() => detach(at, part)}
            >
              detach
            </button>
          )}
        </p>
      )}
    </div>
  );
}

const BLEND: DialAbout = {
  ...PLACE("Blend", "How much of the second is mixed in", ["first", "second"]),
  unit: "",
  low: 0,
  high: 1,
  hard_low: 0,
  hard_high: 1,
  default: 0.5,
};

function SurroundCard({ stage }: { stage: Stage }) {
  const { surround } = stage;
  const { plain } = useCatalogue();
  const set = (change: object) => changePart("surround", (s) => ({ ...s, ...change }));
  return (
    <div>
      <h3 className="font-semibold">What lights</h3>
      <PartCard path="surround.light" of="surround" part={surround.light} />
      <Choice
        label="Mixed with a second"
        on={!!surround.second}
        onChange={(on) => set({ second: on ? plain.dark : null, blend: on ? 0.5 : 0 })}
      />
      {surround.second && (
        <>
          <NumberDial
            about={BLEND}
            value={surround.blend}
            onChange={(v) => set({ blend: v })}
            {...IN_ONE_STEP}
            compact
          />
          <PartCard path="surround.second" of="surround" part={surround.second} />
        </>
      )}
      <Choice
        label="Reflections see another"
        on={!!surround.reflections}
        onChange={(on) => set({ reflections: on ? plain.dark : null })}
      />
      {surround.reflections && <PartCard path="surround.reflections" of="surround" part={surround.reflections} />}
      <Choice
        label="The camera sees another behind"
        on={!!surround.camera}
        onChange={(on) => set({ camera: on ? plain.behind : null })}
      />
      {surround.camera && <PartCard path="surround.camera" of="surround" part={surround.camera} />}
      <Choice label="Cut out in saved pictures" on={surround.cut_out} onChange={(on) => set({ cut_out: on })} />
      {surround.cut_out && (
        <Choice
          label="What is laid behind shows through clear matter"
          on={surround.lets_through}
          onChange={(on) => set({ lets_through: on })}
        />
      )}
      <Choice
        label="Fast shadows (untrue: light goes straight through)"
        on={stage.fast_shadows}
        onChange={(on) => changeStage((s) => ({ ...s, fast_shadows: on }))}
      />
      <Choice
        label="Light is thrown through clear matter (off: found by chance, slowly)"
        on={stage.caustics}
        onChange={(on) => changeStage((s) => ({ ...s, caustics: on }))}
      />
    </div>
  );
}

function FloorCard({ floor }: { floor?: StagePart | null }) {
  const { plain } = useCatalogue();
  return (
    <div>
      <Choice
        label="A floor"
        on={!!floor}
        onChange={(on) => changeStage((s) => ({ ...s, floor: on ? plain.floor : null }))}
      />
      {floor && <PartCard path="floor" of="floor" part={floor} />}
    </div>
  );
}

function Choice({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) {
  return (
    <label className="flex items-center justify-between gap-2 py-1">
      {label}
      <input
        type="checkbox"
        className="checkbox checkbox-xs"
        checked={on}
        onChange={(e) => onChange(e.target.checked)}
      />
    </label>
  );
}

function addObject(): string {
  const { stage } = useDocuments.getState();
  const right = Math.max(...stage.objects.map((one) => one.at[0])) + 8;
  const [object] = catalogueNow().plain.stage.objects as StageObject[];
  const made = { ...object, id: freeName(stage, "object"), at: [right, 0, 0] } as StageObject;
  changeStage((s) => ({ ...s, objects: [...s.objects, made] }));
  return `objects.${stage.objects.length}`;
}

function removeObject(index: number): void {
  changeStage((s) => {
    const gone = s.objects[index].id;
    const lamps = s.lamps.map((lamp) =>
      lamp.lights ? { ...lamp, lights: lamp.lights.filter((id) => id !== gone) } : lamp,
    );
    return { ...s, objects: s.objects.filter((_, i) => i !== index), lamps };
  });
}
