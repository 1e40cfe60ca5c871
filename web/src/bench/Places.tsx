/** The slim row at the top: where one is, which material, and what can be done with it. */
import { Moon, Redo2, Sun, Undo2 } from "lucide-react";
import { useStore } from "zustand";
import type { MaterialLine, StageOut } from "../api/client";
import { Here } from "../people/Here";
import { history, useDocuments } from "./documents";
import { MaterialPicker } from "./MaterialPicker";
import { StagePicker } from "./StagePicker";
import { save, useSaving } from "./saving";

interface PlacesProps {
  materials: MaterialLine[];
  stages: StageOut[];
  theme: "paper" | "night";
  onOpen: (id: string) => void;
  onStage: (id: string) => void;
  onTheme: () => void;
  onHelp: () => void;
  onPlace: () => void;
  place: Place;
  onGo: (place: Place) => void;
}

export type Place = "bench" | "stage" | "trials" | "library" | "pictures";
const PLACES: Record<Place, string> = {
  bench: "Bench",
  stage: "Stage",
  trials: "Trials",
  library: "Library",
  pictures: "Pictures",
};

export function Places({
  materials,
  stages,
  theme,
  onOpen,
  onStage,
  onTheme,
  onHelp,
  onPlace,
  place,
  onGo,
}: PlacesProps) {
  const { id, stageId, revision } = useDocuments();
  const { state, says } = useSaving();
  const past = useStore(history, (s) => s.pastStates.length);
  const future = useStore(history, (s) => s.futureStates.length);
  const words = {
    saved: `revision ${revision}, saved`,
    unsaved: "unsaved changes",
    saving: "saving ...",
    failed: says,
  }[state];
  return (
    <header className="mat flex h-10 shrink-0 items-center gap-3 border-b border-[var(--mat-line)] bg-[var(--color-neutral)] px-3 text-[var(--mat-ink)]">
      <svg width="20" height="20" viewBox="0 0 20 20" aria-hidden="true">
        <path d="M3 3h14v14H3z" fill="none" stroke="#fff" />
        <path d="M3 17 12 3M6 17l9-14" stroke="var(--color-marker)" strokeWidth="1.4" />
      </svg>
      <b className="whitespace-nowrap text-[14px] text-white">Nine Glass</b>
      <nav aria-label="Places" className="whitespace-nowrap">
        {(Object.keys(PLACES) as Place[]).map((one) => (
          <a
            key={one}
            href={`/${one}/${id}/`}
            aria-current={one === place ? "page" : undefined}
            className={`px-1.5 py-0.5 ${one === place ? "bg-marker text-[#1d1d1d]" : "hover:underline"}`}
            onClick={(e) => {
              e.preventDefault();
              onGo(one);
            }}
          >
            {PLACES[one]}
          </a>
        ))}
      </nav>
      <MaterialPicker materials={materials} id={id} onOpen={onOpen} />
      <label className="flex items-center gap-2">
        material
        <select
          className="select select-xs w-32 truncate border-[#777] bg-transparent text-white"
          value={id}
          onChange={(e) => onOpen(e.target.value)}
        >
          {materials.map((one) => (
            <option key={one.id} value={one.id} className="text-black">
              {one.may === "own" || one.id === id ? one.name : `${one.name} (${one.owner})`}
            </option>
          ))}
        </select>
      </label>
      <StagePicker id={stageId} onStage={onStage} />
      <label className="flex items-center gap-2">
        stage
        <select
          className="select select-xs w-32 truncate border-[#777] bg-transparent text-white"
          value={stageId}
          onChange={(e) => onStage(e.target.value)}
        >
          {stages.map((one) => (
            <option key={one.id} value={one.id} className="text-black">
              {one.may === "own" || one.id === stageId ? one.name : `${one.name} (${one.owner})`}
            </option>
          ))}
        </select>
      </label>
      <span
        className="ml-auto max-w-72 truncate text-[var(--mat-mute)]"
        role="status"
        data-testid="saving"
        title={words}
      >
        {words}
      </span>
      <button
        type="button"
        className="btn btn-xs border-[#777] bg-transparent text-white shadow-none disabled:text-[#999]"
        disabled={state === "saved" || state === "saving"}
        onClick={() => save()}
      >
        Save
      </button>
      <Here material={materials.find((one) => one.id === id)} stage={stages.find((one) => one.id === stageId)} />
      <Tool label="Undo" disabled={!past} onClick={() => history.getState().undo()}>
        <Undo2 size={15} />
      </Tool>
      <Tool label="Redo" disabled={!future} onClick={() => history.getState().redo()}>
        <Redo2 size={15} />
      </Tool>
      <button type="button" className="whitespace-nowrap py-1 hover:underline" onClick={onPlace}>
        place <kbd className="key">/</kbd>
      </button>
      <Tool label={theme === "paper" ? "Night theme" : "Paper theme"} onClick={onTheme}>
        {theme === "paper" ? <Moon size={14} /> : <Sun size={14} />}
      </Tool>
      <button type="button" className="px-1.5 py-1 hover:underline" aria-label="Shortcuts" onClick={onHelp}>
        <kbd className="key">?</kbd>
      </button>
    </header>
  );
}

function Tool({ label, ...rest }: { label: string } & React.ButtonHTMLAttributes<HTMLButtonElement>) {
  return (
    <button
      type="button"
      className="p-1.5 hover:text-white disabled:opacity-35"
      aria-label={label}
      title={label}
      {...rest}
    />
  );
}
