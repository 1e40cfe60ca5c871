import { Handle, type Node, type NodeProps, Position } from "@xyflow/react";
import { dialsOf, dialValue, effective, takes, useCatalogue } from "../api/catalogue";
import type { Catalogue, DialAbout, Slip, Stop } from "../api/client";
import { setDials, useDocuments } from "../bench/documents";
import { useLive } from "../bench/live";
import { Dial } from "../ui/Dial";
import type { Driven } from "../ui/NumberDial";
import { rangeWords, say, withUnit } from "../ui/numbers";
import { onF2, Rename } from "../ui/Rename";
import { GRADIENT } from "../ui/StopsDial";
import { joinOf } from "../ui/stops";
import { type Port, useChosen } from "./chosen";
import { driverOf } from "./drivers";
import { gradientDial } from "./gradients";
import { ModuleActions, NewerSign } from "./ModuleActions";
import { MODULE, slipKind } from "./modules";
import { renameSlip } from "./paper";
import { PORT_WORDS, SIGNS, usePaper } from "./ports";
import { SlipPicture } from "./SlipPicture";

export type SlipNodeType = Node<{ slip: Slip }, "slip">;

export function SlipNode({ data: { slip }, selected }: NodeProps<SlipNodeType>) {
  const catalogue = useCatalogue();
  const paper = usePaper();
  const reading = useLive((s) =>
    s.reading?.inside === useDocuments.getState().inside.join("/") ? s.reading : undefined,
  );
  const about = slipKind(catalogue, paper.modules, slip);
  if (!about) return null;
  const isModule = slip.kind === MODULE;
  const droppable = takesGradients(catalogue, slip);
  const exposed = paper.open?.dials.filter(({ target }) => target.part === slip.id) ?? [];
  return (
    <article
      {...droppable}
      className={`slip ${selected ? "chosen" : ""} ${isModule ? "module" : ""}`}
      aria-label={slip.title || about.title}
      data-slip={slip.id}
    >
      <SlipTitle slip={slip} kind={about.title} marked={!!selected} help={about.help} />
      {about.gives.length > 0 && <SlipPicture picture={reading?.slips[slip.id]} />}
      <div className="px-2 py-1">
        {effective(dialsOf(about), slip).map((dial) => {
          const wire = paper.wires.find((one) => one.target.part === slip.id && one.target.dial === dial.name);
          const driven = driverOf(catalogue, paper, wire, reading?.driven);
          const type = takes(dial);
          const onFace = exposed.some(({ target }) => target.dial === dial.name);
          return (
            <div key={dial.name} className={`relative ${onFace ? "on-face" : ""}`}>
              {type && (
                <PortHandle
                  port={{ side: "takes", part: slip.id, name: dial.name }}
                  label={`${dial.label}: takes a ${PORT_WORDS[type]}`}
                  sign={SIGNS[type]}
                  tabbable={!!selected}
                  style={{ left: -18, top: 11 }}
                />
              )}
              {selected ? (
                <Dial
                  about={dial}
                  value={dialValue(slip, dial)}
                  of={slip.id}
                  driven={driven}
                  join={joinOf(dial, slip.dials, dialsOf(about))}
                  file={dial.offered_by ? (slip.dials?.[dial.offered_by] as string) : undefined}
                />
              ) : (
                <Line dial={dial} slip={slip} driven={driven} />
              )}
            </div>
          );
        })}
        {isModule && (selected ? <ModuleActions slip={slip} /> : <NewerSign slip={slip} />)}
      </div>
      {about.gives.map((port, i) => (
        <PortHandle
          key={port.name}
          port={{ side: "gives", part: slip.id, name: port.name }}
          label={`${port.name === "out" ? "gives" : port.name.replaceAll("_", " ")}: a ${PORT_WORDS[port.type]}`}
          sign={SIGNS[port.type]}
          tabbable={!!selected}
          style={{ top: 44 + i * 20 }}
        />
      ))}
    </article>
  );
}

/** A gradient that is carried here is put on the slip's ramp. */
function takesGradients(catalogue: Catalogue, slip: Slip) {
  const dial = gradientDial(catalogue, slip);
  if (!dial) return {};
  return {
    onDragOver: (e: React.DragEvent) => e.dataTransfer.types.includes(GRADIENT) && e.preventDefault(),
    onDrop: (e: React.DragEvent) => {
      const found = catalogue.gradients.find(({ name }) => name === e.dataTransfer.getData(GRADIENT));
      if (found) setDials(slip.id, { [dial]: found.stops as Stop[] });
    },
  };
}

interface PortHandleProps {
  port: Port;
  label: string;
  sign: string;
  /** Whether the keyboard stops here: only at the ports of the slip that is chosen. */
  tabbable: boolean;
  style: React.CSSProperties;
}

/** Where a wire begins or ends; Enter looks for what can be at its other end. */
function PortHandle({ port, label, sign, tabbable, style }: PortHandleProps) {
  const isIn = port.side === "takes";
  return (
    <Handle
      type={isIn ? "target" : "source"}
      id={port.name}
      position={isIn ? Position.Left : Position.Right}
      className={`port ${isIn ? "in" : "out"}`}
      style={style}
      title={label}
      role="button"
      aria-label={label}
      tabIndex={tabbable ? 0 : -1}
      onKeyDown={(e) => {
        if (e.key !== "Enter") return;
        e.preventDefault();
        e.stopPropagation();
        useChosen.getState().find(port);
      }}
    >
      {sign}
    </Handle>
  );
}

function SlipTitle({ slip, kind, marked, help }: { slip: Slip; kind: string; marked: boolean; help: string }) {
  return (
    <header className="flex items-baseline justify-between gap-2 px-2 pt-1 pb-0.5" title={help}>
      <Rename
        name={slip.title}
        label="Name of this slip"
        className="w-24"
        onRename={(title) => renameSlip(slip.id, title)}
      >
        {(begin) => (
          <button
            type="button"
            className="truncate font-semibold"
            title={`${help} Double click to rename.`}
            onDoubleClick={begin}
            onKeyDown={onF2(begin)}
          >
            <span className={marked ? "marked" : ""}>{slip.title || kind}</span>
          </button>
        )}
      </Rename>
      {slip.title && <span className="truncate text-[11px] text-[var(--mute)]">{kind}</span>}
    </header>
  );
}

/** A dial of a slip that is not chosen: its name and what it is set to. */
function Line({ dial, slip, driven }: { dial: DialAbout; slip: Slip; driven?: Driven }) {
  if (dial.type === "text" && !dial.offers?.length)
    return <p className="whitespace-pre-wrap">{dialValue(slip, dial) as string}</p>;
  return (
    <div className="flex items-center justify-between gap-2 py-px">
      <span className="truncate">{dial.label}</span>
      <span className="figures truncate">{driven ? `← ${rangeWords(driven, dial.unit)}` : words(dial, slip)}</span>
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
