import { useState } from "react";
import { api, type FinalPicture } from "../api/client";
import { NumberField } from "../ui/NumberField";
import { TurnLights } from "./TurnLights";
import { inWords } from "./wanted";

interface FinalCardProps {
  of: FinalPicture;
  isFirst: boolean;
  onAct: (what: Promise<{ error?: unknown }>) => Promise<void>;
}

const percent = (share: number) => `${Number((100 * share).toPrecision(2))} %`;

/** One final picture, as far as it is: its preview, how far it is, and what can be done with it. */
export function FinalCard({ of, isFirst, onAct }: FinalCardProps) {
  const path = { params: { path: { picture_id: of.id } } };
  const isUnderWay = of.state === "under way";
  const shown = (src: string | null) => (
    <div className="flex min-h-0 grow basis-0 items-center justify-center overflow-hidden bg-[var(--mat)] p-3">
      {src ? (
        <img src={src} alt={`${of.name}, as far as it is`} className="h-full min-h-0 w-full object-contain" />
      ) : (
        <p className="text-white">{isUnderWay ? "Waiting for its first samples ..." : "Nothing was made of it."}</p>
      )}
    </div>
  );
  return (
    <div className="flex min-w-0 grow flex-col" role="group" aria-label={of.name}>
      <div className="flex flex-wrap items-baseline gap-x-3 border-b border-base-300 px-3 py-1.5">
        <b className="truncate">{of.name}</b>
        <span role="status">{of.state}</span>
        <span className="ml-auto flex gap-3">
          {isUnderWay && !isFirst && (
            <Act says="make it first" onAct={() => onAct(api.POST("/api/pictures/{picture_id}/first", path))} />
          )}
          {isUnderWay && <Act says="pause" onAct={() => onAct(api.POST("/api/pictures/{picture_id}/pause", path))} />}
          {of.exr && <Download says="EXR" href={of.exr} />}
          {of.png && <Download says="PNG" href={of.png} />}
          <Act
            says={isUnderWay ? "cancel" : "remove"}
            onAct={() => onAct(api.DELETE("/api/pictures/{picture_id}", path))}
          />
        </span>
      </div>
      <progress
        className={`progress h-1 w-full ${isUnderWay ? "" : "opacity-0"}`}
        aria-label="How far it is"
        value={shareDone(of)}
        max={1}
      />
      {of.turns && !isUnderWay ? <TurnLights of={of} onAct={onAct} picture={shown} /> : shown(of.preview)}
      {of.says && (
        <p role="alert" className="border-t border-base-300 px-3 py-1.5">
          It could not be made: {of.says} Mend it on the bench and make another.
        </p>
      )}
      <dl className="figures flex flex-wrap gap-x-5 gap-y-0.5 border-t border-base-300 px-3 py-2">
        <Fact term="size" says={`${of.final.width} × ${of.final.height}`} />
        <Fact term="samples" says={of.samples < 10 ? of.samples.toFixed(1) : Math.round(of.samples).toString()} />
        <Fact
          term={`noise${of.final.smoothed ? " left" : ""}`}
          says={
            of.noise == null
              ? "not known yet"
              : `${percent(of.noise)}${of.final.noise ? ` of ${percent(of.final.noise)} wanted` : ""}`
          }
        />
        <Fact term="worked" says={inWords(of.spent_s)} />
        {of.left_s != null && <Fact term="left" says={`about ${inWords(of.left_s)}`} />}
        {of.lights.length > 1 && <Fact term="lights" says={of.lights.map(({ name }) => name).join(", ")} />}
      </dl>
      {!isUnderWay && <GoOn of={of} onAct={onAct} />}
    </div>
  );
}

/** How near it is to where it ends; noise falls with the root of the work. */
function shareDone({ final, noise, samples, spent_s }: FinalPicture): number {
  const shares = [
    final.samples ? samples / final.samples : 0,
    final.minutes ? spent_s / (60 * final.minutes) : 0,
    final.noise && noise ? (final.noise / noise) ** 2 : 0,
  ];
  return Math.min(Math.max(...shares), 1);
}

/** Take it up again, for less noise. */
function GoOn({ of, onAct }: Omit<FinalCardProps, "isFirst">) {
  const wanted = of.final.noise ?? of.noise ?? 0.02;
  const [noise, setNoise] = useState(of.state === "done" ? wanted / 2 : wanted);
  const goOn = () =>
    onAct(
      api.POST("/api/pictures/{picture_id}/go-on", {
        params: { path: { picture_id: of.id } },
        body: { noise, minutes: null, samples: null },
      }),
    );
  return (
    <div className="flex items-center gap-2 border-t border-base-300 px-3 py-2">
      <button type="button" className="btn btn-xs" onClick={goOn}>
        Go on
      </button>
      until noise is
      <NumberField
        label="Go on until noise is, %"
        value={Number((100 * noise).toPrecision(3))}
        onChange={(v) => setNoise(Math.min(Math.max(v, 0.1), 100) / 100)}
      />
      %<span className="text-[var(--mute)]">; what it has is kept</span>
    </div>
  );
}

function Act({ says, onAct }: { says: string; onAct: () => void }) {
  return (
    <button type="button" className="hover:underline" onClick={onAct}>
      {says}
    </button>
  );
}

function Download({ says, href }: { says: string; href: string }) {
  return (
    <a className="hover:underline" href={href} download>
      {says}
    </a>
  );
}

function Fact({ term, says }: { term: string; says: string }) {
  return (
    <div className="flex gap-1.5">
      <dt className="text-[var(--mute)]">{term}</dt>
      <dd>{says}</dd>
    </div>
  );
}
