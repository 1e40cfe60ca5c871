import { useEffect, useRef, useState } from "react";
import type { DialAbout, Proof, Rgb } from "../api/client";
import { FileDial } from "../ui/FileDial";
import { NumberField } from "../ui/NumberField";
import { Tabs } from "../ui/Tabs";
import { type Place, Sampled } from "./Sampled";
import { type Pair, Samples } from "./Samples";
import { colorAt, cropped, drawPhotograph, type Laid, WHOLE } from "./sampling";

interface Sample extends Pair {
  at: { ours: Place; theirs: Place };
  /** How the photograph lay when it was taken. */
  laid: Laid;
}

const WAYS = ["beside", "wipe", "flip", "four"] as const;
const ABOUT = {
  type: "file",
  name: "reference",
  label: "Photograph",
  holds: "texture",
  accepts: ".png,.jpg,.jpeg,.exr,.hdr",
  help: "What the picture is held against",
  default: "",
} as unknown as DialAbout;
const QUARTER = 90;

/** The picture as it is now against a photograph: beside, wiped, flipped, or with the newest two proofs; samples on both. */
export function Reference({ proofs }: { proofs: Proof[] }) {
  const [file, setFile] = useState("");
  const [way, setWay] = useState<(typeof WAYS)[number]>("beside");
  const [stops, setStops] = useState(0);
  const [white, setWhite] = useState<Rgb>([1, 1, 1]);
  const [laid, lay] = useState<Laid>(WHOLE);
  const [cuts, cut] = useState(false);
  const [reach, setReach] = useState(4);
  const [edge, setEdge] = useState(0.5);
  const [flipped, flip] = useState(false);
  const [samples, setSamples] = useState<Sample[]>([]);
  const [waiting, setWaiting] = useState<{ ours?: Place; theirs?: Place }>({});
  const [taken, take] = useState(0);
  const ours = useRef<HTMLCanvasElement>(null);
  const theirs = useRef<HTMLCanvasElement>(null);
  const [image, setImage] = useState<HTMLImageElement>();

  // biome-ignore lint/correctness/useExhaustiveDependencies: the picture is taken anew when it is asked for
  useEffect(() => {
    const live = document.querySelector<HTMLCanvasElement>("[data-testid=picture]");
    if (!live?.width || !ours.current) return;
    ours.current.width = live.width;
    ours.current.height = live.height;
    ours.current.getContext("2d", { willReadFrequently: true })?.drawImage(live, 0, 0);
  }, [taken]);
  useEffect(() => {
    if (!file) return setImage(undefined);
    const next = new Image();
    next.onload = () => setImage(next);
    next.src = `/files/${file}/picture.png`;
  }, [file]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another way of showing it is another canvas
  useEffect(() => {
    const gain = white.map((v) => v * 2 ** stops) as Rgb;
    if (image && theirs.current) drawPhotograph(theirs.current, image, laid, gain);
  }, [image, stops, white, laid, way]);

  const isLaidOver = way === "wipe" || way === "flip";
  const mark = (whose: "ours" | "theirs", at: Place) => {
    const next = isLaidOver ? { ours: at, theirs: at } : { ...waiting, [whose]: at };
    setWaiting(next);
    if (!next.ours || !next.theirs || !ours.current || !theirs.current) return;
    const [own, other] = [colorAt(ours.current, ...next.ours, reach), colorAt(theirs.current, ...next.theirs, reach)];
    if (!own || !other) return;
    const id = (samples[samples.length - 1]?.id ?? 0) + 1;
    setSamples([...samples, { id, ours: own, theirs: other, at: { ours: next.ours, theirs: next.theirs }, laid }]);
    setWaiting({});
  };
  const marks = (whose: "ours" | "theirs") => [
    ...samples
      .filter((one) => whose === "ours" || one.laid === laid)
      .map((one) => ({ id: String(one.id), at: one.at[whose] })),
    ...(waiting[whose] ? [{ id: "?", at: waiting[whose] as Place }] : []),
  ];
  const photograph = (fills: boolean) => (
    <Sampled
      of="theirs"
      canvas={theirs}
      marks={fills ? [] : marks("theirs")}
      onMark={mark}
      fills={fills}
      isEmpty={!fills && !image}
      onCrop={
        cuts
          ? (from, to) => {
              lay(cropped(laid, from, to));
              cut(false);
            }
          : undefined
      }
    />
  );
  return (
    <div className="flex min-w-0 grow flex-col">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-base-300 px-3 py-1.5">
        <div className="w-56">
          <FileDial about={ABOUT} value={file} onChange={setFile} />
        </div>
        <Tabs label="How the two are shown" words={WAYS} chosen={way} onChoose={setWay} />
        <span className="flex items-center gap-1">
          stops <NumberField label="Stops of the photograph" value={stops} onChange={setStops} />
        </span>
        <span className="flex items-center gap-1">
          turned{" "}
          <NumberField
            label="Turn of the photograph, degrees"
            value={laid.turn}
            onChange={(turn) => lay({ ...WHOLE, turn: turn % 360 })}
          />
          <button
            type="button"
            className="hover:underline"
            onClick={() => lay({ ...WHOLE, turn: (laid.turn + QUARTER) % 360 })}
          >
            a quarter
          </button>
        </span>
        <Cropping laid={laid} cuts={cuts} onCut={() => cut(!cuts)} onLay={lay} />
        <span className="flex items-center gap-1">
          area{" "}
          <NumberField
            label="Pixels to either side"
            value={reach}
            onChange={(v) => setReach(Math.min(Math.max(Math.round(v), 0), 64))}
          />
        </span>
        <button type="button" className="hover:underline" onClick={() => take(taken + 1)}>
          take the picture anew
        </button>
        {way === "flip" && (
          <button type="button" className="hover:underline" aria-pressed={flipped} onClick={() => flip(!flipped)}>
            <span className={flipped ? "marked" : ""}>show the photograph</span>
          </button>
        )}
        {way === "wipe" && (
          <input
            type="range"
            className="range range-xs w-40"
            aria-label="Edge between photograph and picture"
            min={0}
            max={100}
            value={100 * edge}
            onChange={(e) => setEdge(Number(e.target.value) / 100)}
          />
        )}
      </div>
      <div className={`min-h-0 grow overflow-y-auto p-3 ${isLaidOver ? "" : "grid grid-cols-2 items-start gap-3"}`}>
        <div className={isLaidOver ? "relative mx-auto max-w-[34rem]" : ""}>
          <Sampled of="ours" canvas={ours} marks={marks("ours")} onMark={mark} />
          {isLaidOver && (
            <div
              className="absolute inset-0"
              style={way === "wipe" ? { clipPath: `inset(0 ${100 - 100 * edge}% 0 0)` } : { opacity: flipped ? 1 : 0 }}
            >
              {photograph(true)}
            </div>
          )}
        </div>
        {!isLaidOver && photograph(false)}
        {way === "four" &&
          proofs.slice(-2).map((proof) => (
            <figure key={proof.id}>
              <img src={proof.picture} alt={`proof ${proof.number}`} className="w-full border border-base-content" />
              <figcaption className="text-[var(--mute)]">proof {proof.number}</figcaption>
            </figure>
          ))}
        {way === "four" && proofs.length === 0 && <p>Keep proofs on the bench to have them here as well.</p>}
      </div>
      <Samples
        pairs={samples}
        hint={
          isLaidOver
            ? "Press a place: both are sampled there."
            : "Press a place of the picture, and one of the photograph."
        }
        onWhite={setWhite}
        onRemove={(id) => setSamples(samples.filter((one) => one.id !== id))}
      />
    </div>
  );
}

interface CroppingProps {
  laid: Laid;
  cuts: boolean;
  onCut: () => void;
  onLay: (laid: Laid) => void;
}

const SIDES = ["left", "top", "right", "bottom"] as const;

/** What of the photograph is shown: drawn by a drag, or typed as shares of the whole. */
function Cropping({ laid, cuts, onCut, onLay }: CroppingProps) {
  const isCut = SIDES.some((side) => laid[side] !== WHOLE[side]);
  const set = (side: (typeof SIDES)[number], percent: number) => {
    const next = { ...laid, [side]: Math.min(Math.max(percent / 100, 0), 1) };
    if (next.right - next.left > 0.01 && next.bottom - next.top > 0.01) onLay(next);
  };
  return (
    <span className="flex items-center gap-1">
      <button
        type="button"
        className="hover:underline"
        aria-pressed={cuts}
        title="Then drag over the part of the photograph that is to stay"
        onClick={onCut}
      >
        <span className={cuts ? "marked" : ""}>crop</span>
      </button>
      {(cuts || isCut) && (
        <>
          {SIDES.map((side) => (
            <span key={side} className="flex items-center gap-1">
              {side}
              <NumberField
                label={`Crop: ${side}, %`}
                value={Math.round(100 * laid[side])}
                onChange={(v) => set(side, v)}
              />
            </span>
          ))}
          %
          <button type="button" className="hover:underline" onClick={() => onLay({ ...WHOLE, turn: laid.turn })}>
            whole
          </button>
        </>
      )}
    </span>
  );
}
