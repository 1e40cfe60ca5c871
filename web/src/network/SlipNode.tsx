import { Handle, type Node, type NodeProps, Position } from "@xyflow/react";
import { useState } from "react";
import { dialsOf, dialValue, takes, useKind } from "../api/catalogue";
import type { DialAbout, Slip } from "../api/client";
import { renameSlip, useDocuments } from "../bench/documents";
import { useLive } from "../bench/live";
import { Dial } from "../ui/Dial";
import { say, withUnit } from "../ui/numbers";
import { PORT_WORDS, SIGNS } from "./ports";
import { SlipPicture } from "./SlipPicture";

export type SlipNodeType = Node<{ slip: Slip }, "slip">;

export function SlipNode({ data: { slip }, selected }: NodeProps<SlipNodeType>) {
  const about = useKind("slip", slip.kind);
  const picture = useLive((s) => s.reading?.slips[slip.id]);
  const wires = useDocuments((s) => s.material.wires);
  if (!about) return null;
  return (
    <article className={`slip ${selected ? "chosen" : ""}`} aria-label={slip.title || about.title} data-slip={slip.id}>
      <SlipTitle slip={slip} kind={about.title} marked={!!selected} help={about.help} />
      <SlipPicture picture={picture} />
      <div className="px-2 py-1">
        {dialsOf(about).map((dial) => {
          const wire = wires.find((one) => one.target.part === slip.id && one.target.dial === dial.name);
          const type = takes(dial);
          return (
            <div key={dial.name} className="relative">
              {type && (
                <Handle
                  type="target"
                  id={dial.name}
                  position={Position.Left}
                  className="port in"
                  style={{ left: -18, top: 11 }}
                  title={`${dial.label}: takes a ${PORT_WORDS[type]}`}
                >
                  {SIGNS[type]}
                </Handle>
              )}
              {selected ? (
                <Dial
                  about={dial}
                  value={dialValue(slip, dial)}
                  of={slip.id}
                  driven={wire && { by: wire.source.slip }}
                />
              ) : (
                <Line dial={dial} slip={slip} driven={!!wire} />
              )}
            </div>
          );
        })}
      </div>
      {about.gives.map((port, i) => (
        <Handle
          key={port.name}
          type="source"
          id={port.name}
          position={Position.Right}
          className="port out"
          style={{ top: 44 + i * 20 }}
          title={`${port.name === "out" ? "gives" : port.name}: a ${PORT_WORDS[port.type]}`}
        >
          {SIGNS[port.type]}
        </Handle>
      ))}
    </article>
  );
}

function SlipTitle({ slip, kind, marked, help }: { slip: Slip; kind: string; marked: boolean; help: string }) {
  const [typed, setTyped] = useState<string>();
  const done = () => {
    if (typed !== undefined) renameSlip(slip.id, typed.trim().slice(0, 120));
    setTyped(undefined);
  };
  return (
    <header className="flex items-baseline justify-between gap-2 px-2 pt-1 pb-0.5" title={help}>
      {typed === undefined ? (
        <button
          type="button"
          className="truncate font-semibold"
          title={`${help} Double click to rename.`}
          onDoubleClick={() => setTyped(slip.title)}
        >
          <span className={marked ? "marked" : ""}>{slip.title || kind}</span>
        </button>
      ) : (
        <input
          className="nodrag w-24 border-b border-current bg-transparent"
          aria-label="Name of this slip"
          // biome-ignore lint/a11y/noAutofocus: the person has just asked to type here
          autoFocus
          value={typed}
          onChange={(e) => setTyped(e.target.value)}
          onBlur={done}
          onKeyDown={(e) => {
            e.stopPropagation();
            if (e.key === "Enter") done();
            if (e.key === "Escape") setTyped(undefined);
          }}
        />
      )}
      {slip.title && <span className="truncate text-[11px] text-[var(--mute)]">{kind}</span>}
    </header>
  );
}

/** A dial of a slip that is not chosen: its name and what it is set to. */
function Line({ dial, slip, driven }: { dial: DialAbout; slip: Slip; driven: boolean }) {
  return (
    <div className="flex items-center justify-between gap-2 py-px">
      <span className="truncate">{dial.label}</span>
      <span className="figures truncate">{driven ? "driven" : words(dial, slip)}</span>
    </div>
  );
}

function words(dial: DialAbout, slip: Slip): React.ReactNode {
  const value = dialValue(slip, dial);
  if (dial.type === "number") return withUnit(value as number, dial.unit);
  if (dial.type === "toggle") return value ? "yes" : "no";
  if (dial.type === "vector") return "form";
  if (dial.type === "color") return <Swatch rgb={value as number[]} />;
  if (dial.type === "stops" || dial.type === "color_stops") return `${(value as unknown[]).length} stops`;
  return String(value);
}

function Swatch({ rgb }: { rgb: number[] }) {
  const css = rgb.map((v) => say(Math.min(v, 1))).join(" ");
  return (
    <span
      className="inline-block h-3 w-8 border border-current align-middle"
      style={{ background: `color(srgb-linear ${css})` }}
    />
  );
}
