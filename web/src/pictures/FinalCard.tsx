import { useState } from "react";
import { api, type FinalPicture } from "../api/client";
import { NumberField } from "../ui/NumberField";
import { limited } from "../ui/numbers";
import { FinishPanel } from "./FinishPanel";
import { Finished, Frames, OnMat } from "./Frames";
import { TurnLights } from "./TurnLights";
import { inWords } from "./wanted";

interface FinalCardProps {
  of: FinalPicture;
  isFirst: boolean;
  /** Whether its finish is turned. */
  finishing: boolean;
  onFinish: (finishing: boolean) => void;
  onAct: (what: Promise<{ error?: unknown }>) => Promise<void>;
}

const percent = (share: number) => `${Number((100 * share).toPrecision(2))} %`;

/** One final picture, as far as it is: its preview, how far it is, and what can be done with it. */
export function FinalCard({ of, isFirst, finishing, onFinish, onAct }: FinalCardProps) {
  const [frame, setFrame] = useState(0);
  const path = { params: { path: { picture_id: of.id } } };
  const isUnderWay = of.state === "under way";
  const shown = (src: string | null) => <OnMat src={src} says={isUnderWay ? WAITING : NOTHING} name={of.name} />;
  const picture = () => {
    if (finishing) return <Finished of={of} frame={frame} />;
    if (isSeries(of)) return <Frames of={of} chosen={frame} onChoose={setFrame} />;
    if (of.turns && !isUnderWay) return <TurnLights of={of} onAct={onAct} picture={shown} />;
    return shown(of.preview);
  };
  return (
    <div className="flex min-w-0 grow" role="group" aria-label={of.name}>
      <div className="flex min-w-0 grow flex-col">
        <div className="flex flex-wrap items-baseline gap-x-3 border-b border-base-300 px-3 py-1.5">
          <b className="truncate">{of.name}</b>
          <span role="status">{of.state}</span>
          <span className="ml-auto flex gap-3">
            {mayFinish(of) && (
              <button
                type="button"
                className={finishing ? "marked" : "hover:underline"}
                aria-pressed={finishing}
                onClick={() => onFinish(!finishing)}
              >
                {finishing ? "back from its finish" : "finish"}
              </button>
            )}
            {isUnderWay && !isFirst && (
              <Act says="make it first" onAct={() => onAct(api.POST("/api/pictures/{picture_id}/first", path))} />
            )}
            {isUnderWay && <Act says="pause" onAct={() => onAct(api.POST("/api/pictures/{picture_id}/pause", path))} />}
            {of.exr && <Download says="EXR" href={of.exr} />}
            {of.png && <Download says="PNG" href={of.png} />}
            {of.video && <Download says="WebM" href={of.video} />}
            {Object.entries(of.archives).map(([ending, href]) => (
              <Download key={ending} says={`${ending.toUpperCase()} of all`} href={href} />
            ))}
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
        {picture()}
        {of.says && (
          <p role="alert" className="border-t border-base-300 px-3 py-1.5">
            It could not be made: {of.says} Mend it on the bench and make another.
          </p>
        )}
        <Facts of={of} />
        {!isUnderWay && !isSeries(of) && <GoOn of={of} onAct={onAct} />}
        {isSeries(of) && (of.state === "paused" || of.state === "failed") && (
          <p className="border-t border-base-300 px-3 py-2">
            <button
              type="button"
              className="btn btn-xs"
              onClick={() => onAct(api.POST("/api/pictures/{picture_id}/take-up", path))}
            >
              Go on
            </button>{" "}
            <span className="text-[var(--mute)]">what is done is kept</span>
          </p>
        )}
      </div>
      {finishing && <FinishPanel of={of} frame={frame} onAct={onAct} />}
    </div>
  );
}

/** Whether there is anything to which a finish can be done. */
export const mayFinish = (of: FinalPicture) => of.trial == null && (of.motion ? of.frames_done > 0 : of.exr != null);

const WAITING = "Waiting for its first samples ...";
const NOTHING = "Nothing was made of it.";

function Facts({ of }: { of: FinalPicture }) {
  const cut = of.cut.map((share, i) => ({ share, of: LIMITS[i] })).filter(({ share }) => share >= 0.0005);
  return (
    <dl className="figures flex flex-wrap gap-x-5 gap-y-0.5 border-t border-base-300 px-3 py-2">
      <Fact term="size" says={`${of.final.width} × ${of.final.height}`} />
      {isSeries(of) && <Fact term="done" says={`${of.frames_done} of ${countOf(of)}`} />}
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
      {cut.map(({ share, of: limit }) => (
        <Fact key={limit} term={`lost to the limit of ${limit}`} says={`about ${percent(share)} of the light`} />
      ))}
    </dl>
  );
}

const isSeries = ({ motion, trial }: FinalPicture) => motion != null || trial != null;

const LIMITS = ["bounces", "matt bounces", "scattering"];

const countOf = ({ motion, trial }: FinalPicture) => motion?.frames ?? (trial ? trial.rows * trial.columns : 1);

/** How near it is to where it ends; noise falls with the root of the work. */
function shareDone(of: FinalPicture): number {
  const { final, noise, samples, spent_s } = of;
  if (isSeries(of)) return of.frames_done / countOf(of);
  const shares = [
    final.samples ? samples / final.samples : 0,
    final.minutes ? spent_s / (60 * final.minutes) : 0,
    final.noise && noise ? (final.noise / noise) ** 2 : 0,
  ];
  return Math.min(Math.max(...shares), 1);
}

/** Take it up again, for less noise. */
function GoOn({ of, onAct }: Pick<FinalCardProps, "of" | "onAct">) {
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
        onChange={(v) => setNoise(limited(v, 0.1, 100) / 100)}
      />
      %<span className="text-[var(--mute)]">what it has is kept</span>
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
