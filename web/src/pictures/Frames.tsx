import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { api, type FinalPicture, type FrameOut } from "../api/client";
import { Wipe } from "../picture/Wipe";
import { finishedAddress, useFinishes } from "./finish";
import { LOOKS_AGAIN_MS } from "./wanted";

/** A picture as large as there is room, on neutral grey. */
export function OnMat({ src, says, name }: { src: string | null; says: string; name: string }) {
  return (
    <div className="flex min-h-0 grow basis-0 items-center justify-center overflow-hidden bg-[var(--mat)] p-3">
      {src ? (
        <img src={src} alt={`${name}, as far as it is`} className="h-full min-h-0 w-full object-contain" />
      ) : (
        <p className="text-white">{says}</p>
      )}
    </div>
  );
}

/** A picture with its finish, and beside it, over an edge that is dragged, as it was made. */
export function Finished({ of, frame }: { of: FinalPicture; frame: number }) {
  const [wipes, setWipes] = useState(false);
  const worn = useFinishes().find(({ id }) => id === of.finish_id);
  const version = `${of.samples}`;
  const address = useDeferredValue(finishedAddress("jpg", of.id, worn?.document, frame, version));
  const { width, height } = of.final;
  const box = {
    aspectRatio: `${width} / ${height}`,
    width: `min(100cqw, ${(100 * width) / height}cqh)`,
  };
  return (
    <>
      <div className="min-h-0 grow basis-0 overflow-hidden bg-[var(--mat)] p-3">
        <div className="flex h-full w-full items-center justify-center" style={{ containerType: "size" }}>
          <div className="relative" style={box}>
            <img src={address} alt={`${of.name}, with its finish`} className="h-full w-full" />
            {wipes && (
              <Wipe picture={finishedAddress("jpg", of.id, undefined, frame, version)} says="picture as it was made" />
            )}
          </div>
        </div>
      </div>
      <label className="flex items-center gap-1.5 border-t border-base-300 px-3 py-1.5">
        <input
          type="checkbox"
          className="toggle toggle-xs"
          checked={wipes}
          onChange={(e) => setWipes(e.target.checked)}
        />
        before, left of an edge
      </label>
    </>
  );
}

interface FramesProps {
  of: FinalPicture;
  chosen: number;
  onChoose: (frame: number) => void;
}

/** A series: its video when it is done, its frames as far as they are; a trial as its cells lie. */
export function Frames({ of, chosen, onChoose }: FramesProps) {
  const [plays, setPlays] = useState(true);
  const { data: frames = [] } = useQuery({
    queryKey: ["frames", of.id, of.state, of.video],
    queryFn: async () =>
      ((await api.GET("/api/pictures/{picture_id}/frames", { params: { path: { picture_id: of.id } } })).data ??
        []) as FrameOut[],
    refetchInterval: of.state === "under way" ? LOOKS_AGAIN_MS : false,
  });
  if (of.trial) return <Cells frames={frames} columns={of.trial.columns} name={of.name} />;
  const there = frames.filter((one) => one.preview);
  const one = frames[chosen]?.preview ? frames[chosen] : there[there.length - 1];
  return (
    <>
      {of.video && plays ? (
        <div className="flex min-h-0 grow basis-0 items-center justify-center overflow-hidden bg-[var(--mat)] p-3">
          <video
            key={of.video}
            className="h-full min-h-0 w-full object-contain"
            src={of.video}
            aria-label={`${of.name}, moving`}
            autoPlay
            loop={of.motion?.loops}
            muted
            controls
            playsInline
          />
        </div>
      ) : (
        <OnMat src={one?.preview ?? null} says="Waiting for the first frames ..." name={of.name} />
      )}
      <ul className="flex gap-1 overflow-x-auto border-t border-base-300 px-3 py-2" aria-label="Frames">
        {of.video && (
          <li>
            <button
              type="button"
              className={`h-12 px-2 ${plays ? "marked" : "hover:underline"}`}
              aria-pressed={plays}
              onClick={() => setPlays(true)}
            >
              play
            </button>
          </li>
        )}
        {there.map((frame) => (
          <li key={frame.number} className="shrink-0">
            <button
              type="button"
              aria-label={`Frame ${frame.number + 1}${frame.is_done ? "" : ", not done yet"}`}
              aria-pressed={!plays && frame.number === one?.number}
              className="block"
              onClick={() => {
                setPlays(false);
                onChoose(frame.number);
              }}
            >
              <img
                src={frame.preview ?? ""}
                alt=""
                className={`h-12 ${frame.is_done ? "" : "opacity-60"} ${!plays && frame.number === one?.number ? "ring-2 ring-marker" : ""}`}
              />
            </button>
          </li>
        ))}
      </ul>
    </>
  );
}

function Cells({ frames, columns, name }: { frames: FrameOut[]; columns: number; name: string }) {
  return (
    <div className="min-h-0 grow basis-0 overflow-auto bg-[var(--mat)] p-3">
      <ul
        className="mx-auto grid w-max max-w-full gap-1"
        style={{ gridTemplateColumns: `repeat(${columns}, minmax(0, 10rem))` }}
        aria-label={name}
      >
        {frames.map((one) => (
          <li key={one.number} className="aspect-square bg-black/20">
            {one.preview && (
              <img
                src={one.preview}
                alt={`Cell ${one.number + 1}${one.is_done ? "" : ", not done yet"}`}
                className={`h-full w-full ${one.is_done ? "" : "opacity-70"}`}
              />
            )}
          </li>
        ))}
      </ul>
    </div>
  );
}
