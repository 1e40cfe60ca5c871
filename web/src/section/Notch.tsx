import { Spline } from "lucide-react";
import { useCatalogue } from "../api/catalogue";
import type { DialAbout, PortType } from "../api/client";
import { placeSlip, removeWires, runWire, useDocuments } from "../bench/documents";
import { conversion, PORT_WORDS, whyNot } from "../network/ports";

interface NotchProps {
  part: string;
  dial: DialAbout;
  type: PortType;
  driven: boolean;
}

/** Where a wire ends in the section; opened, it lists what can drive the dial, for the keyboard and the quick. */
export function Notch({ part, dial, type, driven }: NotchProps) {
  const catalogue = useCatalogue();
  const material = useDocuments((s) => s.material);
  const wireFrom = (slip: string, port: string) => ({ source: { slip, port }, target: { part, dial: dial.name } });
  const sources = material.slips.flatMap((slip) => {
    const kind = catalogue.kinds.find((one) => one.role === "slip" && one.name === slip.kind);
    return (kind?.gives ?? [])
      .filter((port) => !whyNot(catalogue, material, wireFrom(slip.id, port.name)))
      .map((port) => ({
        slip: slip.id,
        port: port.name,
        title: `${slip.title || kind?.title}${port.name === "out" ? "" : `, ${port.name}`}`,
      }));
  });
  const kinds = catalogue.kinds.filter(
    (kind) => kind.role === "slip" && kind.gives.some((port) => conversion(catalogue, port.type, type) !== undefined),
  );
  const close = () => (document.activeElement as HTMLElement | null)?.blur();
  const drive = (slip: string, port: string) => {
    runWire(wireFrom(slip, port));
    close();
  };
  const takeOff = () => {
    removeWires([wireFrom("", "")]);
    close();
  };
  const driveByNew = (kind: string) => {
    const port = catalogue.kinds
      .find((one) => one.role === "slip" && one.name === kind)
      ?.gives.find((p) => conversion(catalogue, p.type, type) !== undefined);
    const lowest = Math.max(0, ...material.slips.map((slip) => slip.at[1] + 150));
    if (port) drive(placeSlip(kind, { x: 220, y: lowest }), port.name);
  };
  return (
    <div className="dropdown">
      <button
        type="button"
        data-notch={`${part}.${dial.name}`}
        className={`grid h-6 w-6 place-items-center hover:bg-base-200 ${driven ? "text-base-content" : "text-[var(--mute)]"}`}
        aria-haspopup="true"
        aria-label={`Drive ${dial.label} by a ${PORT_WORDS[type]}`}
        title={`Drive by a ${PORT_WORDS[type]}: run a wire here, or choose`}
      >
        <Spline size={13} strokeWidth={driven ? 2.4 : 1.4} />
      </button>
      <ul className="dropdown-content menu menu-xs z-40 max-h-72 w-52 flex-nowrap overflow-y-auto border border-base-content bg-base-100 p-1">
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
