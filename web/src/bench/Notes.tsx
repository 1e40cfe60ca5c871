import { useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { useCatalogue } from "../api/catalogue";
import type { Catalogue, DialValue, Lamp, Material, Note } from "../api/client";
import { addLamp, beginGesture, changeMaterial, changePart, endGesture, ON_STAGE, setDials } from "./documents";
import { useLive } from "./live";
import { placeOnWire } from "./placing";

function remedy(catalogue: Catalogue, note: Note): void {
  beginGesture();
  for (const change of note.changes) {
    if ("lamp" in change) {
      addLamp(change.lamp as unknown as Lamp);
      continue;
    }
    if ("material" in change) {
      changeMaterial(() => change.material as unknown as Material);
      continue;
    }
    const { part, dial } = change;
    if ("slip" in change) {
      placeOnWire(catalogue, change.slip, { part, dial }, change.dials);
      continue;
    }
    const { value } = change;
    if (/^(surround|objects\.\d+)$/.test(part)) changePart(part, (one) => ({ ...one, [dial]: value }));
    else setDials(/^(camera|lamps\.\d+)$/.test(part) ? ON_STAGE + part : part, { [dial]: value as DialValue });
  }
  endGesture();
}

/** The foot of the bench: rules that the material breaks, each with its figure and a remedy. */
export function Notes() {
  const notes = useLive((s) => s.reading?.notes) ?? [];
  const faults = useLive((s) => s.faults);
  const catalogue = useCatalogue();
  const [at, setAt] = useState(0);
  useHotkeys("n", () => setAt((i) => i + 1), { enableOnFormTags: ["slider"] });
  const note = notes[at % Math.max(notes.length, 1)];
  return (
    <section
      className="mat flex h-8 shrink-0 items-center gap-3 border-t border-[var(--mat-line)] bg-[var(--color-neutral)] px-3 text-[var(--mat-ink)]"
      aria-label="Bench notes"
    >
      {faults.length > 0 ? (
        <p role="alert" className="truncate">
          <b className="marked mr-3">not shown</b>
          {faults[0].path}: {faults[0].fault}. Allowed: {faults[0].allowed}. {faults[0].remedy} The picture still shows
          the last state that could be.
        </p>
      ) : note ? (
        <>
          <b className="bg-marker px-2 text-[#1d1d1d]">{notes.length}</b>
          <p className="min-w-0 truncate" role="status" title={note.says}>
            {note.says}
          </p>
          {note.changes.length ? (
            <button
              type="button"
              className="shrink-0 py-1 text-white underline underline-offset-2"
              onClick={() => remedy(catalogue, note)}
            >
              {note.remedy}
            </button>
          ) : (
            <span className="shrink-0">{note.remedy}</span>
          )}
          {notes.length > 1 && (
            <button type="button" className="ml-auto shrink-0 py-1 hover:underline" onClick={() => setAt(at + 1)}>
              next <kbd className="key">N</kbd>
            </button>
          )}
        </>
      ) : (
        <p>No bench notes: nothing here breaks a rule of the trade.</p>
      )}
    </section>
  );
}
