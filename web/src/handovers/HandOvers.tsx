import { useState } from "react";
import type { HandOver } from "../api/client";
import { useDocuments } from "../bench/documents";
import { sayApart } from "../ui/numbers";
import { handOver, removeHandOver, takeIn, useFormats, useHandOvers, useTakenIn } from "./handovers";
import { Report } from "./Report";

/** Materials out to other programs and in from them, each with what became of it. */
export function HandOvers({ onOpen }: { onOpen: (material: string) => void }) {
  const id = useDocuments((s) => s.id);
  const name = useDocuments((s) => s.material.name);
  const view = useDocuments((s) => s.stage.view);
  const { formats, sides } = useFormats();
  const written = formats.filter(({ writes }) => writes);
  const handed = useHandOvers();
  const taken = useTakenIn(id);
  const [format, setFormat] = useState("");
  const [side, setSide] = useState(1024);
  const [isWriting, setWriting] = useState(false);
  const [chosenId, choose] = useState<string>();
  const asked = format || written[0]?.name || "";
  const about = formats.find((one) => one.name === asked);
  const chosen = handed.find((one) => one.id === chosenId) ?? (chosenId === "in" ? undefined : handed[0]);
  const write = async () => {
    setWriting(true);
    const made = await handOver(asked, side);
    setWriting(false);
    if (made) choose(made.id);
  };
  const take = async (file?: File) => {
    const made = file && (await takeIn(file));
    if (made) {
      choose("in");
      onOpen(made);
    }
  };
  return (
    <section className="flex h-full min-w-0" aria-label="Hand over">
      <div className="flex w-[17rem] shrink-0 flex-col gap-2.5 overflow-y-auto border-r border-base-300 p-3">
        <h2 className="font-semibold">Hand over {name}</h2>
        <label className="flex items-center gap-2">
          <span className="w-16">format</span>
          <select className="select select-xs grow" value={asked} onChange={(e) => setFormat(e.target.value)}>
            {written.map((one) => (
              <option key={one.name} value={one.name}>
                {one.title} ({one.ending})
              </option>
            ))}
          </select>
        </label>
        <p className="text-[var(--mute)]">{about?.help}</p>
        <label className="flex items-center gap-2">
          <span className="w-16">pictures</span>
          <select
            className="select select-xs figures grow"
            value={side}
            title="Of what no other way can be said: this many pixels on a side"
            onChange={(e) => setSide(Number(e.target.value))}
          >
            {sides.map((one) => (
              <option key={one} value={one}>
                {one} × {one}
              </option>
            ))}
          </select>
        </label>
        <button
          type="button"
          className="btn btn-sm bg-marker text-[#1d1d1d]"
          disabled={isWriting || !asked}
          onClick={write}
        >
          {isWriting ? "writing ..." : "Write it"}
        </button>
        <p className="text-[var(--mute)]">
          The view of the stage as a table for programs that grade:{" "}
          <a className="underline" href={`/handovers/views/${view}.cube`} download>
            {view}.cube
          </a>
        </p>
        <h2 className="mt-2 font-semibold">Take in</h2>
        <label className="flex flex-col gap-1 text-[var(--mute)]">
          {formats.map(({ title, ending }) => `${title} (${ending})`).join(", ")}; or a zip of one with its pictures
          <input
            type="file"
            className="file-input file-input-xs w-full text-base-content"
            accept={[...formats.map(({ ending }) => ending), ".zip"].join(",")}
            aria-label="A file to take in"
            onChange={(e) => {
              take(e.target.files?.[0]);
              e.target.value = "";
            }}
          />
        </label>
        {taken && (
          <button
            type="button"
            className="border-t border-base-300 pt-1 text-left hover:underline"
            aria-pressed={chosenId === "in"}
            onClick={() => choose("in")}
          >
            <span className={chosenId === "in" ? "marked" : ""}>{name} was read of</span> {taken.file_name}
          </button>
        )}
        <h2 className="mt-2 font-semibold">Handed over</h2>
        {handed.length === 0 && <p className="text-[var(--mute)]">Nothing yet.</p>}
        <ul aria-label="Handed over">
          {handed.map((one) => (
            <li key={one.id}>
              <button
                type="button"
                className="w-full border-b border-base-300 py-1 text-left hover:bg-base-200"
                aria-pressed={one === chosen}
                onClick={() => choose(one.id)}
              >
                <span className={`block truncate ${one === chosen ? "marked" : ""}`}>{one.name}</span>
                <span className="figures block truncate text-[11px] text-[var(--mute)]">
                  {one.format} · {sizeOf(one.bytes)} · {stateOf(one)}
                </span>
              </button>
            </li>
          ))}
        </ul>
      </div>
      <div className="min-w-0 grow overflow-y-auto p-3">
        {chosenId === "in" && taken ? (
          <>
            <h2 className="mb-2 font-semibold">
              {name}, read of {taken.file_name}
            </h2>
            <Report of={taken.report} label="What was read" />
          </>
        ) : chosen ? (
          <Handed of={chosen} />
        ) : (
          <p className="mx-auto mt-24 max-w-80 text-center text-[var(--mute)]">
            What is written is read back as another program would read it, rendered beside the original in three lights,
            and measured.
          </p>
        )}
      </div>
    </section>
  );
}

function Handed({ of }: { of: HandOver }) {
  return (
    <article className="flex flex-col gap-3" aria-label={`${of.name} as ${of.format}`}>
      <header className="flex items-center gap-4">
        <h2 className="font-semibold">{of.name}</h2>
        <a className="btn btn-xs bg-marker text-[#1d1d1d]" href={of.file} download={of.file_name}>
          {of.file_name} <span className="figures">{sizeOf(of.bytes)}</span>
        </a>
        <button type="button" className="ml-auto hover:underline" onClick={() => removeHandOver(of.id)}>
          remove
        </button>
      </header>
      <section aria-label="Measured" className="flex flex-col gap-2">
        {of.state === "failed" && <p role="alert">It could not be measured: {of.says}</p>}
        {of.measured.map((one) => (
          <figure key={one.stage} className="bg-[var(--mat)] p-2 text-[var(--mat-ink)]">
            <figcaption className="mb-1 flex flex-wrap gap-x-4">
              <b className="text-white">{one.stage}</b>
              <span className="figures">
                ΔE <b className="text-white">{sayApart(one.delta_e)}</b> in the mean
              </span>
              <span className="figures">worst {sayApart(one.worst)}</span>
              <span className="figures">noise alone {sayApart(one.noise)}</span>
            </figcaption>
            <img src={one.picture} alt={`Original, read back, and how far apart: ${one.stage}`} className="w-full" />
            <div className="mt-1 flex justify-around">
              <span>original</span>
              <span>read back</span>
              <span>how far apart (black: ΔE 20)</span>
            </div>
          </figure>
        ))}
        {of.state === "measuring" && (
          <div role="status" className="flex items-center gap-3">
            <progress className="progress w-40" value={of.measured.length} max={of.of_lights} />
            read back and measured: {of.measured.length} of {of.of_lights} lights
          </div>
        )}
      </section>
      <Report of={of.report} label="What went over" />
      {of.read_report && (
        <details>
          <summary className="cursor-pointer font-semibold">What was read back</summary>
          <Report of={of.read_report} label="What was read back" />
        </details>
      )}
    </article>
  );
}

function stateOf(one: HandOver): string {
  if (one.state !== "done") return one.state;
  return one.delta_e === null ? "nothing to measure" : `ΔE ${sayApart(one.delta_e)}`;
}

function sizeOf(bytes: number): string {
  return bytes < 1e6 ? `${Math.ceil(bytes / 1e3)} kB` : `${(bytes / 1e6).toFixed(1)} MB`;
}
