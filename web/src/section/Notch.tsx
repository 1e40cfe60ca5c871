import { Spline } from "lucide-react";
import { useCatalogue } from "../api/catalogue";
import type { PortType } from "../api/client";
import { inOneStep } from "../bench/documents";
import { useChosen } from "../network/chosen";
import { placeSlip, removeWires, runWire } from "../network/paper";
import { freePlace } from "../network/places";
import { conversion, kindOnPaper, PORT_WORDS, paperNow, usePaper, whyNot, wireTo } from "../network/ports";

interface NotchProps {
  part: string;
  dial: string;
  label: string;
  /** What it takes; anything when not given. */
  type?: PortType;
  driven?: boolean;
}

/** Where a wire ends in the section; opened, it lists what can drive the dial, for the keyboard and the quick. */
export function Notch({ part, dial, label, type, driven }: NotchProps) {
  const catalogue = useCatalogue();
  const paper = usePaper();
  const wireFrom = (slip: string, port: string) => ({ source: { slip, port }, target: { part, dial } });
  const sources = paper.slips.flatMap((slip) => {
    const kind = kindOnPaper(catalogue, paper, slip.id);
    return (kind?.gives ?? [])
      .filter((port) => !whyNot(catalogue, paper, wireFrom(slip.id, port.name)))
      .map((port) => ({
        slip: slip.id,
        port: port.name,
        title: `${slip.title || kind?.title}${port.name === "out" ? "" : `, ${port.name}`}`,
      }));
  });
  const fits = (given: PortType) => !type || conversion(catalogue, given, type) !== undefined;
  const kinds = catalogue.kinds.filter((kind) => kind.role === "slip" && kind.gives.some((port) => fits(port.type)));
  const close = () => (document.activeElement as HTMLElement | null)?.blur();
  const drive = (slip: string, port: string) => {
    runWire(wireFrom(slip, port));
    close();
  };
  const takeOff = () => {
    removeWires([wireFrom("", "")]);
    close();
  };
  const driveByNew = (kind: string) =>
    inOneStep(() => {
      const id = placeSlip(kind, freePlace(paper.slips, { x: 220, y: 40 }));
      const wire = wireTo(catalogue, paperNow(), id, { side: "takes", part, name: dial });
      if (wire) runWire(wire);
      close();
    });
  const seek = () => {
    close();
    useChosen.getState().find({ side: "takes", part, name: dial });
  };
  const what = type ? `a ${PORT_WORDS[type]}` : "anything";
  return (
    <div className="dropdown">
      <button
        type="button"
        data-notch={`${part}.${dial}`}
        className={`grid h-6 w-6 place-items-center hover:bg-base-200 ${driven ? "text-base-content" : "text-[var(--mute)]"}`}
        aria-haspopup="true"
        aria-label={`Drive ${label} by ${what}`}
        title={`Drive by ${what}: run a wire here, or choose`}
      >
        <Spline size={13} strokeWidth={driven ? 2.4 : 1.4} />
      </button>
      <ul className="dropdown-content menu menu-xs z-40 max-h-72 w-52 flex-nowrap overflow-y-auto border border-base-content bg-base-100 p-1">
        <li>
          <button type="button" onClick={seek}>
            Find by typing ...
          </button>
        </li>
        {driven && (
          <li>
            <button type="button" onClick={takeOff}>
              Take the wire off
            </button>
          </li>
        )}
        {sources.map((source) => (
          <li key={`${source.slip}.${source.port}`}>
            <button type="button" onClick={() => drive(source.slip, source.port)}>
              {source.title}
            </button>
          </li>
        ))}
        <li className="menu-title px-2 py-1 text-[11px] text-[var(--mute)]">a new slip</li>
        {kinds.map((kind) => (
          <li key={kind.name}>
            <button type="button" onClick={() => driveByNew(kind.name)}>
              {kind.title}
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
