import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, type DialAbout, type Difference, type Rgb } from "../api/client";
import { toHex } from "../ui/colors";
import { FileDial } from "../ui/FileDial";
import { NumberField } from "../ui/NumberField";
import { Tabs } from "../ui/Tabs";
import { colorAt, drawGained, whiteOf } from "./sampling";
import { changeSwatch } from "./swatches";

type Place = [number, number];

interface Pair {
  id: number;
  ours: { at: Place; color: Rgb };
  theirs: { at: Place; color: Rgb };
}

const WAYS = ["beside", "wipe", "flip"] as const;
const ABOUT = {
  type: "file",
  name: "reference",
  label: "Photograph",
  holds: "texture",
  accepts: ".png,.jpg,.jpeg,.exr,.hdr",
  help: "What the picture is held against",
  default: "",
} as unknown as DialAbout;

/** The picture as it is now against a photograph: beside, wiped or flipped, with samples on both. */
export function Reference() {
  const [file, setFile] = useState("");
  const [way, setWay] = useState<(typeof WAYS)[number]>("beside");
  const [stops, setStops] = useState(0);
  const [white, setWhite] = useState<Rgb>([1, 1, 1]);
  const [reach, setReach] = useState(4);
  const [edge, setEdge] = useState(0.5);
  const [flipped, flip] = useState(false);
  const [pairs, setPairs] = useState<Pair[]>([]);
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
    if (image && theirs.current) drawGained(theirs.current, image, gain);
  }, [image, stops, white, way]);

  const { data: differences = [] } = useQuery({
    queryKey: ["differences", pairs],
    enabled: pairs.length > 0,
    queryFn: async () => {
      const body = { pairs: pairs.map((one) => ({ first: one.ours.color, second: one.theirs.color })) };
      return ((await api.POST("/api/trials/differences", { body })).data ?? []) as Difference[];
    },
  });

  const mark = (whose: "ours" | "theirs", at: Place) => {
    const next = way === "beside" ? { ...waiting, [whose]: at } : { ours: at, theirs: at };
    setWaiting(next);
    if (!next.ours || !next.theirs || !ours.current || !theirs.current) return;
    const [own, other] = [colorAt(ours.current, ...next.ours, reach), colorAt(theirs.current, ...next.theirs, reach)];
    if (!own || !other) return;
    const id = (pairs[pairs.length - 1]?.id ?? 0) + 1;
    setPairs([...pairs, { id, ours: { at: next.ours, color: own }, theirs: { at: next.theirs, color: other } }]);
    setWaiting({});
  };
  const marks = (whose: "ours" | "theirs") => [
    ...pairs.map((one) => ({ id: String(one.id), at: one[whose].at })),
    ...(waiting[whose] ? [{ id: "?", at: waiting[whose] as Place }] : []),
  ];
  const laid = way !== "beside";
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
        {laid && way === "flip" && (
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
      <div className={`min-h-0 grow overflow-y-auto p-3 ${laid ? "" : "grid grid-cols-2 items-start gap-3"}`}>
        <div className={laid ? "relative mx-auto max-w-[34rem]" : ""}>
          <Shown of="ours" canvas={ours} marks={marks("ours")} onMark={mark} />
          {laid && (
            <div
              className="absolute inset-0"
              style={way === "wipe" ? { clipPath: `inset(0 ${100 - 100 * edge}% 0 0)` } : { opacity: flipped ? 1 : 0 }}
            >
              <Shown of="theirs" canvas={theirs} marks={[]} onMark={mark} fills />
            </div>
          )}
        </div>
        {!laid && <Shown of="theirs" canvas={theirs} marks={marks("theirs")} onMark={mark} isEmpty={!image} />}
      </div>
      <table className="w-full border-t border-base-300 text-[12px]">
        <caption className="px-3 py-1 text-left text-[var(--mute)]">
          {pairs.length
            ? "Samples: the picture, the photograph, and what the picture has to it"
            : laid
              ? "Press a place: both are sampled there."
              : "Press a place of the picture, and one of the photograph."}
        </caption>
        <tbody>
          {pairs.map((one, i) => (
            <tr key={one.id} className="border-t border-base-200">
              <td className="px-3 py-1">{one.id}</td>
              {[one.ours.color, one.theirs.color].map((color, k) => (
                <td key={k === 0 ? "ours" : "theirs"}>
                  <span
                    className="mr-1 inline-block h-4 w-8 border border-base-content align-middle"
                    style={{ background: toHex(color) }}
                  />
                  <span className="figures">{toHex(color)}</span>
                </td>
              ))}
              <td className="figures whitespace-nowrap pr-3">
                {differences[i] && `DE2000 ${differences[i].delta_e.toFixed(1)}`}
              </td>
              <td>{differences[i]?.says}</td>
              <td className="whitespace-nowrap text-right">
                <button
                  type="button"
                  className="px-1.5 hover:underline"
                  onClick={() => setWhite(whiteOf(one.theirs.color))}
                >
                  white
                </button>
                <button
                  type="button"
                  className="px-1.5 hover:underline"
                  onClick={() => changeSwatch(0, { color: clipped(one.theirs.color) })}
                >
                  thin
                </button>
                <button
                  type="button"
                  className="px-1.5 hover:underline"
                  onClick={() => changeSwatch(1, { color: clipped(one.theirs.color) })}
                >
                  thick
                </button>
                <button
                  type="button"
                  className="px-1.5 hover:underline"
                  onClick={() => setPairs(pairs.filter((other) => other !== one))}
                >
                  remove
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

const clipped = (color: Rgb) => color.map((v) => Math.min(Math.max(v, 0), 1)) as Rgb;

interface ShownProps {
  of: "ours" | "theirs";
  canvas: React.RefObject<HTMLCanvasElement | null>;
  marks: { id: string; at: Place }[];
  onMark: (of: "ours" | "theirs", at: Place) => void;
  fills?: boolean;
  isEmpty?: boolean;
}

const STEP = 0.02;

function Shown({ of, canvas, marks, onMark, fills, isEmpty }: ShownProps) {
  const [at, setAt] = useState<Place>([0.5, 0.5]);
  const moves: Record<string, Place> = {
    ArrowLeft: [-STEP, 0],
    ArrowRight: [STEP, 0],
    ArrowUp: [0, -STEP],
    ArrowDown: [0, STEP],
  };
  const label = of === "ours" ? "The picture" : "The photograph";
  return (
    <figure className={fills ? "h-full" : ""}>
      <button
        type="button"
        className={`relative block w-full cursor-crosshair border border-base-content bg-[var(--mat)] ${fills ? "h-full" : ""}`}
        aria-label={`${label}: sample a place; arrow keys move it`}
        onClick={(e) => {
          const box = e.currentTarget.getBoundingClientRect();
          const isKey = e.detail === 0;
          onMark(of, isKey ? at : [(e.clientX - box.left) / box.width, (e.clientY - box.top) / box.height]);
        }}
        onKeyDown={(e) => {
          const by = moves[e.key];
          if (!by) return;
          e.preventDefault();
          setAt([Math.min(Math.max(at[0] + by[0], 0), 1), Math.min(Math.max(at[1] + by[1], 0), 1)]);
        }}
      >
        <canvas ref={canvas} className={fills ? "h-full w-full object-cover" : "block w-full"} />
        {isEmpty && <span className="block py-24 text-white">Put in a photograph above.</span>}
        {marks.map((one) => (
          <span
            key={one.id}
            className="figures -translate-x-1/2 -translate-y-1/2 absolute border border-black bg-marker px-1 text-[10px] text-black"
            style={{ left: `${100 * one.at[0]}%`, top: `${100 * one.at[1]}%` }}
          >
            {one.id}
          </span>
        ))}
      </button>
      {!fills && <figcaption className="text-[var(--mute)]">{label.toLowerCase()}</figcaption>}
    </figure>
  );
}
