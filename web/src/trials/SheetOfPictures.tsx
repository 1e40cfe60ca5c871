import { useState } from "react";
import { stepsOf } from "./axes";
import { type Run, sizeOf } from "./run";
import { WipedCells } from "./WipedCells";

interface SheetOfPicturesProps {
  run: Run;
  onKeep: () => void;
  onLay: (k: number) => void;
  onStop: () => void;
}

/** How far a mean may move before it is told as a change, CIE DE2000. */
const TOLD_FROM = 1;

/** The pictures of a trial, each with what it is of and the noise that it has left. */
export function SheetOfPictures({ run, onKeep, onLay, onStop }: SheetOfPicturesProps) {
  const { columns } = sizeOf(run);
  const [across, down] = [stepsOf(run.across), stepsOf(run.down)];
  const name = (k: number) => [down[Math.floor(k / columns)], across[k % columns]].filter(Boolean).join(", ");
  const [chosen, choose] = useState<number>();
  const [wipes, wipe] = useState(false);
  const shown = run.cells.flatMap((cell, k) => (cell ? [{ k, name: name(k), cell }] : []));
  const beneath = shown.findIndex(({ k }) => k === chosen);
  const moved = run.cells.filter((cell) => (cell?.changed ?? 0) >= TOLD_FROM).length;
  const compared = run.cells.filter((cell) => cell?.changed != null).length;
  const isFour = columns === 4 && !run.down;
  const along = isFour ? 2 : columns;
  const sides = { gridTemplateColumns: `${run.down ? "auto" : ""} repeat(${along}, minmax(0, 1fr))` };
  const step = (by: number) => {
    const next = Math.min(Math.max((chosen ?? 0) + by, 0), run.cells.length - 1);
    choose(next);
    document.getElementById(`cell-${next}`)?.focus();
  };
  const keys: Record<string, () => void> = {
    ArrowRight: () => step(1),
    ArrowLeft: () => step(-1),
    ArrowDown: () => step(columns),
    ArrowUp: () => step(-columns),
    Enter: () => chosen !== undefined && onLay(chosen),
  };
  return (
    <div className="flex min-w-0 grow flex-col">
      <div className="flex items-baseline gap-3 border-b border-base-300 px-3 py-1.5">
        <b className="truncate">{run.name}</b>
        <span role="status" className="shrink-0">
          {run.state === "done" ? "settled" : run.state === "left" ? "left as it is" : said(run)}
        </span>
        {compared > 0 && (
          <span className="shrink-0" title={`mean colours that moved by CIE DE2000 ${TOLD_FROM} or more`}>
            {moved ? `${moved} of ${compared} changed` : "nothing changed"} since it was kept
          </span>
        )}
        <span className="ml-auto flex shrink-0 gap-3">
          {run.state === "under way" && (
            <button type="button" className="hover:underline" onClick={onStop}>
              stop
            </button>
          )}
          {chosen !== undefined && (
            <button type="button" className="hover:underline" onClick={() => onLay(chosen)}>
              lay on the bench
            </button>
          )}
          {beneath >= 0 && shown.length > 1 && (
            <button type="button" aria-pressed={wipes} onClick={() => wipe(!wipes)}>
              <span className={wipes ? "marked" : "hover:underline"}>wipe</span>
            </button>
          )}
          <button type="button" className="hover:underline" onClick={onKeep}>
            keep
          </button>
        </span>
      </div>
      <progress
        className={`progress h-1 w-full ${run.state === "under way" ? "" : "opacity-0"}`}
        aria-label="How far the trial is"
        value={run.progress}
        max={1}
      />
      <div className="min-h-0 grow overflow-y-auto p-3">
        <p className="text-[var(--mute)]">
          {run.across.label && <>across: {run.across.label} </>}
          {run.down?.label && <>down: {run.down.label}</>}
        </p>
        {wipes && beneath >= 0 && shown.length > 1 && <WipedCells key={beneath} cells={shown} beneath={beneath} />}
        {/* biome-ignore lint/a11y/noStaticElementInteractions: the keys go from picture to picture, which are buttons */}
        <div
          className="grid items-end gap-1.5"
          style={sides}
          onKeyDown={(e) => {
            const act = keys[e.key];
            if (!act) return;
            e.preventDefault();
            e.stopPropagation();
            act();
          }}
        >
          {run.down && <span />}
          {(isFour ? [] : across).map((one) => (
            <span key={one} className="figures line-clamp-2 text-[11.5px] leading-tight" title={one}>
              {one}
            </span>
          ))}
          {run.cells.map((cell, k) => [
            run.down && k % columns === 0 && (
              <span
                key={`row ${name(k)}`}
                className="figures max-w-24 self-center truncate text-[11.5px]"
                title={down[k / columns]}
              >
                {down[k / columns]}
              </span>
            ),
            <button
              type="button"
              key={name(k)}
              id={`cell-${k}`}
              className={`relative aspect-square max-h-72 w-full border bg-[#555] ${k === chosen ? "border-marker outline-2 outline-marker" : "border-black"}`}
              aria-label={name(k)}
              aria-pressed={k === chosen}
              onClick={() => choose(k)}
              onDoubleClick={() => onLay(k)}
            >
              {cell && <img src={cell.url} alt="" className="h-full w-full object-cover" />}
              {isFour && (
                <span className="absolute bottom-0 left-0 max-w-full truncate bg-[#000a] px-1 text-[11.5px] text-white">
                  {name(k)}
                </span>
              )}
              {cell && (
                <span className="figures absolute right-0 bottom-0 bg-[#000a] px-1 text-[10.5px] text-white">
                  {cell.noise < 0.001 ? "under 0.1" : (100 * cell.noise).toPrecision(2)} %
                  {cell.changed !== null && cell.changed >= TOLD_FROM && ` · moved ${cell.changed.toFixed(1)}`}
                </span>
              )}
            </button>,
          ])}
        </div>
      </div>
    </div>
  );
}

const said = (run: Run) =>
  `${Math.round(100 * run.progress)} %${run.readable ? ", all can be judged" : ", rendering evenly"}`;
