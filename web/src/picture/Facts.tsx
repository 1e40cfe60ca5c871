import { changeStage, useDocuments } from "../bench/documents";
import { useLive } from "../bench/live";
import { say } from "../ui/numbers";

/** A share of light that the limit of bounces cut is told from here on. */
const TOLD = 0.001;

/** The line under the picture: samples, noise, time, exposure. */
export function Facts({ onSmoothing }: { onSmoothing: () => void }) {
  const isSmoothed = useLive((s) => s.smoothed);
  const frame = useLive((s) => s.frame);
  const isApart = useLive((s) => s.apart);
  const preparing = useLive((s) => s.preparing);
  const exposure = useDocuments((s) => Number(s.stage.camera.dials.exposure ?? 0));
  const clock = frame
    ? `${Math.floor(frame.seconds / 60)}:${String(Math.floor(frame.seconds % 60)).padStart(2, "0")}`
    : "0:00";
  return (
    <div
      className="mat figures flex flex-wrap items-center gap-x-3 whitespace-nowrap border-y border-[var(--mat-line)] bg-[var(--color-neutral)] px-3 py-1.5 text-[var(--mat-ink)]"
      data-testid="facts"
    >
      <span>
        <b className="text-white">{frame?.coarse ? "coarse" : (frame?.samples ?? 0)}</b>{" "}
        {frame?.coarse ? "" : "samples"}
      </span>
      <span>
        noise{frame?.smoothed ? " left" : ""}{" "}
        <b className="text-white">
          {frame?.noise == null ? "–" : `${say(Number((frame.noise * 100).toPrecision(2)))} %`}
        </b>
      </span>
      <b className="text-white">{clock}</b>
      {frame?.settled && <span>settled</span>}
      {frame?.strands && (
        <span role="status" title="All of them grow as soon as nothing changes for a moment">
          <b className="text-white">{frame.strands[0].toLocaleString("en-GB")}</b> of{" "}
          {frame.strands[1].toLocaleString("en-GB")} strands
        </span>
      )}
      <button
        type="button"
        className="min-h-6 min-w-6 hover:underline"
        aria-pressed={isSmoothed}
        title="Whether noise is taken out of what is shown while the picture settles; the noise told is that of the picture that is shown (G)"
        onClick={onSmoothing}
      >
        {isSmoothed && frame?.smoothed ? "smoothed" : "rendered"}
      </button>
      {!!frame && frame.cut > TOLD && (
        <span title="Light that was still under way when the most bounces of the settings were reached">
          cut <b className="text-white">{say(Number((frame.cut * 100).toPrecision(2)))} %</b>
        </span>
      )}
      {isApart && frame && !frame.coarse && frame.lights === 0 && (
        <span role="status" title="Each would have to be made by itself; switch some lamps off">
          too many lights to keep apart
        </span>
      )}
      {frame?.nearly && (
        <span
          role="status"
          title="A light was given another colour, which three channels tell nearly, or switched off, and still hides what is behind it; any other change makes the picture anew"
        >
          lights nearly
        </span>
      )}
      {preparing && !preparing.waits && (
        <span title="Kernels that other stages need are compiled behind; this picture has all of its own" role="status">
          {preparing.done} of {preparing.of} kernels ready
        </span>
      )}
      <span className="ml-auto flex items-center gap-1">
        <button
          type="button"
          className="min-h-6 min-w-6 hover:underline"
          aria-label="Exposure down"
          title="["
          onClick={() => expose(-0.5)}
        >
          −
        </button>
        <abbr title="exposure value">EV</abbr>{" "}
        <b className="text-white">{exposure > 0 ? `+${say(exposure)}` : say(exposure)}</b>
        <button
          type="button"
          className="min-h-6 min-w-6 hover:underline"
          aria-label="Exposure up"
          title="]"
          onClick={() => expose(0.5)}
        >
          +
        </button>
      </span>
    </div>
  );
}

/** Change the exposure by some EV. */
export function expose(by: number): void {
  changeStage((stage) => {
    const exposure = Math.min(Math.max(Number(stage.camera.dials.exposure ?? 0) + by, -20), 20);
    return { ...stage, camera: { ...stage.camera, dials: { ...stage.camera.dials, exposure } } };
  });
}
