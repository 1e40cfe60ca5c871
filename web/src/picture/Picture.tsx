import { forwardRef, type MouseEvent, type PointerEvent, useEffect, useRef, useState } from "react";
import { useKind } from "../api/catalogue";
import { beginGesture, changeStage, endGesture, useDocuments } from "../bench/documents";
import { type Question, useLive } from "../bench/live";
import { allowDrop, carriedTo, waitForWhose } from "../stage/wearing";
import { followPointer } from "../ui/drag";
import { say } from "../ui/numbers";
import { Held } from "./Held";
import { type Part, partBetween, placed } from "./part";
import { RayLines } from "./Readouts";
import { StopsKey } from "./StopsKey";
import { scaleBar } from "./scale";

interface PictureProps {
  /** Width over height. */
  aspect: number;
  /** Pixels of the page above and below the picture that others take. */
  besides: number;
  /** A proof to show in place of the live picture. */
  proof?: { number: number; picture: string };
  /** Laid over the picture. */
  children?: React.ReactNode;
  /** Read the light at a place, follow it, or make the place sharp; 0 to 1 from the left and from the top. */
  onAsk: (what: Question, x: number, y: number) => void;
  onPart: (part?: Part) => void;
  /** Told how many pixels of the screen the picture may take. */
  onRoom: (width: number, height: number) => void;
}

type HeldKey = "lamps" | "follow" | "pick" | "part";
const HELD: Record<string, HeldKey> = { l: "lamps", f: "follow", p: "pick", r: "part" };

const DEGREES_PER_PIXEL = 0.5;

/** The live picture. Dragging turns the form, with L the lamps; the wheel moves the camera, a double click makes a place sharp. */
export const Picture = forwardRef<HTMLCanvasElement, PictureProps>(function Picture(
  { aspect, besides, proof, onAsk, onPart, onRoom, children },
  canvas,
) {
  const state = useLive((s) => s.state);
  const why = useLive((s) => (s.state === "refused" ? s.why : undefined));
  const preparing = useLive((s) => s.preparing);
  const behind = useLive((s) => s.sent > (s.frame?.sequence ?? 0));
  const frame = useRef<HTMLDivElement>(null);
  const held = useRef<HeldKey>(undefined);
  /** Whether a part was drawn since its key was pressed. */
  const hasDrawn = useRef(false);
  const part = useLive((s) => s.part);
  const [drawn, draw] = useState<Part>();
  const [aim, setAim] = useState(false);
  const zoom = useZoom();

  useEffect(() => {
    const hold = (isDown: boolean) => (e: KeyboardEvent) => {
      const what = HELD[e.key.toLowerCase()];
      const typing = (e.target as HTMLElement).closest("input:not([type=checkbox]), textarea, select, dialog");
      if (!what || (typing && isDown) || e.ctrlKey || e.metaKey) return;
      if (what === "part" && !e.repeat) {
        if (!isDown && !hasDrawn.current) onPart();
        hasDrawn.current = false;
      }
      held.current = isDown ? what : undefined;
      setAim(isDown && what !== "lamps");
    };
    const down = hold(true);
    const up = hold(false);
    window.addEventListener("keydown", down);
    window.addEventListener("keyup", up);
    return () => {
      window.removeEventListener("keydown", down);
      window.removeEventListener("keyup", up);
    };
  }, [onPart]);

  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    const wheel = (e: WheelEvent) => {
      e.preventDefault();
      zoom(e.deltaY > 0 ? 1.04 : 1 / 1.04);
    };
    element.addEventListener("wheel", wheel, { passive: false });
    return () => element.removeEventListener("wheel", wheel);
  }, [zoom]);

  const drag = (event: PointerEvent<HTMLDivElement>) => {
    if (event.button !== 0 || onSomething(event)) return;
    if (held.current === "follow" || held.current === "pick") {
      onAsk(held.current, ...placeOf(event));
      return;
    }
    if (held.current === "part") {
      drawPart(event);
      return;
    }
    let last = event.clientX;
    beginGesture();
    const move = (e: globalThis.PointerEvent) => {
      turn((e.clientX - last) * DEGREES_PER_PIXEL, held.current === "lamps");
      last = e.clientX;
    };
    followPointer(event, move, endGesture);
  };

  const drawPart = (event: PointerEvent<HTMLDivElement>) => {
    const picture = event.currentTarget;
    hasDrawn.current = true;
    const first = placeIn(picture, event);
    let between: Part | undefined;
    const move = (e: globalThis.PointerEvent) => {
      between = partBetween(first, placeIn(picture, e));
      draw(between);
    };
    followPointer(event, move, () => {
      draw(undefined);
      onPart(between);
    });
  };

  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    const tell = () => onRoom(element.clientWidth * devicePixelRatio, element.clientHeight * devicePixelRatio);
    const watch = new ResizeObserver(tell);
    watch.observe(element);
    return () => watch.disconnect();
  }, [onRoom]);

  return (
    <div className="mat relative grid shrink-0 place-items-center bg-[var(--mat)] p-2">
      <div
        ref={frame}
        role="application"
        aria-label="Live picture: arrow keys turn the form, with Shift the lamps; plus and minus move the camera; Enter reads the light in the middle, with Shift follows it"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: the picture is worked on with the keyboard as well
        tabIndex={0}
        style={{ aspectRatio: aspect, width: `min(100%, calc((100vh - ${besides}px) * ${aspect}))` }}
        className={`relative touch-none ${aim ? "cursor-crosshair" : "cursor-grab active:cursor-grabbing"}`}
        onPointerDown={drag}
        onDragOver={allowDrop}
        onDrop={(e) => {
          e.preventDefault();
          waitForWhose(carriedTo(e));
          onAsk("whose", ...placeOf(e));
        }}
        onDoubleClick={(e) => !onSomething(e) && onAsk("focus", ...placeOf(e))}
        onKeyDown={(e) => {
          const turns: Record<string, number> = { ArrowLeft: -5, ArrowRight: 5 };
          if (e.key === "Enter") onAsk(e.shiftKey ? "follow" : "pick", 0.5, 0.5);
          else if (turns[e.key]) turn(turns[e.key], e.shiftKey);
          else if (e.key === "+" || e.key === "=") zoom(1 / 1.04);
          else if (e.key === "-") zoom(1.04);
          else return;
          e.preventDefault();
        }}
      >
        <canvas ref={canvas} width={480} height={480} className="block h-full w-full bg-[#333]" data-testid="picture" />
        {proof && (
          <img
            className="absolute inset-0 h-full w-full bg-[var(--mat)] object-contain"
            src={proof.picture}
            alt={`proof ${proof.number}`}
            data-testid="proof-picture"
          />
        )}
        {(drawn ?? part) && (
          <div
            className="pointer-events-none absolute border border-white [box-shadow:0_0_0_1px_#000]"
            style={placed(drawn ?? (part as Part))}
            data-testid="part"
          />
        )}
        {!proof && <RayLines aspect={aspect} />}
        {!proof && <Held />}
        <Scale />
        {!proof && <StopsKey />}
        {proof && <span className="absolute top-2 left-2 bg-marker px-2 text-[#1d1d1d]">proof {proof.number}</span>}
        {!proof && behind && state === "live" && (
          <span className="absolute top-2 left-2 bg-[#000a] px-2 text-white">behind</span>
        )}
        {children}
        {preparing?.waits && (
          <div role="status" className="absolute inset-x-2 bottom-10 bg-base-100 px-2 py-1 text-base-content">
            <p>
              Preparing what this stage needs: {preparing.done} of {preparing.of} kernels compiled. The picture comes by
              itself.
            </p>
            <progress className="progress h-1 w-full" value={preparing.done} max={preparing.of} />
          </div>
        )}
        {(why ?? STATES[state]) && (
          <p role="status" className="absolute inset-x-2 bottom-10 bg-base-100 px-2 py-1 text-base-content">
            {why ?? STATES[state]}
          </p>
        )}
      </div>
    </div>
  );
});

/** Whether the pointer is on something laid over the picture that takes it. */
function onSomething(event: MouseEvent<HTMLDivElement>): boolean {
  return (event.target as HTMLElement).closest("button, [role=slider], [role=dialog]") !== null;
}

/** Where the pointer is in the picture: 0 to 1 from the left and from the top. */
function placeIn(picture: HTMLElement, pointer: { clientX: number; clientY: number }): [number, number] {
  const box = picture.getBoundingClientRect();
  return [(pointer.clientX - box.left) / box.width, (pointer.clientY - box.top) / box.height];
}

const placeOf = (event: MouseEvent<HTMLDivElement>) => placeIn(event.currentTarget, event);

const STATES: Record<string, string | undefined> = {
  connecting: "The renderer is starting ...",
  restarted: "The renderer stopped and was started again. Nothing was lost; the picture begins anew.",
  lost: "The server cannot be reached. Your work is kept in this browser; trying again ...",
};

function turn(degrees: number, lamps: boolean): void {
  changeStage((stage) => {
    if (!lamps) return { ...stage, turn: (stage.turn + degrees) % 360 };
    const turned = stage.lamps.map((lamp) => {
      const azimuth = Number(lamp.dials.azimuth ?? 140) + degrees;
      return { ...lamp, dials: { ...lamp.dials, azimuth: ((azimuth + 540) % 360) - 180 } };
    });
    return { ...stage, lamps: turned };
  });
}

function useZoom() {
  const dial = useKind("camera", useDocuments.getState().stage.camera.kind)?.dials.find(
    (one) => one.name === "distance",
  );
  const initial = useRef(45);
  initial.current = Number(dial?.default ?? 45);
  return useRef((by: number) =>
    changeStage((stage) => {
      const distance = Math.min(Math.max(Number(stage.camera.dials.distance ?? initial.current) * by, 5), 2000);
      return { ...stage, camera: { ...stage.camera, dials: { ...stage.camera.dials, distance } } };
    }),
  ).current;
}

/** How large things are at the middle of the form. */
function Scale() {
  const camera = useDocuments((s) => s.stage.camera.dials);
  const bar = scaleBar(Number(camera.distance ?? 45), Number(camera.focal_length ?? 80));
  return (
    <div
      className="pointer-events-none absolute bottom-2 left-3 text-[11px] text-white [text-shadow:0_0_3px_#000]"
      style={{ width: `${bar.share * 100}%` }}
    >
      <span className="figures">{say(bar.cm)} cm</span>
      <div className="h-1.5 border-x border-b border-white" />
    </div>
  );
}
