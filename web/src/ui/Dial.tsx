/** Any dial, drawn from its description. */
import type { DialAbout, DialValue, Rgb, Stop } from "../api/client";
import { beginGesture, endGesture, setDials } from "../bench/documents";
import { ColorDial } from "./ColorDial";
import { CurveDial } from "./CurveDial";
import { FileDial } from "./FileDial";
import { type Driven, NumberDial } from "./NumberDial";
import { pointedAt } from "./pointed";
import { StopsDial } from "./StopsDial";
import type { Join } from "./stops";
import { TextDial } from "./TextDial";
import { WordDial } from "./WordDial";

interface DialProps {
  about: DialAbout;
  value: DialValue;
  /** The slip or band that it belongs to. */
  of: string;
  driven?: Driven;
  /** How its stops are joined. */
  join?: Join;
  /** The file whose grids its words name. */
  file?: string;
  compact?: boolean;
  children?: React.ReactNode;
}

/** A dial of the material or the stage on the bench. */
export function Dial({ of, ...about }: DialProps) {
  const onChange = (next: DialValue) => setDials(of, { [about.about.name]: next });
  const dial = <FreeDial {...about} onChange={onChange} onBegin={beginGesture} onEnd={endGesture} />;
  if (about.about.type !== "number" || about.driven) return dial;
  return <div {...pointedAt({ of, about: about.about })}>{dial}</div>;
}

interface FreeDialProps extends Omit<DialProps, "of"> {
  onChange: (value: DialValue) => void;
  onBegin?: () => void;
  onEnd?: () => void;
}

/** A dial of whatever; what it is set to is told. */
export function FreeDial({ about, value, driven, join, file, compact, children, ...how }: FreeDialProps) {
  const { onChange } = how;
  const shared = { about, ...how, children };
  switch (about.type) {
    case "number":
      return <NumberDial {...shared} value={value as number} driven={driven} compact={compact} />;
    case "color":
      return <ColorDial {...shared} value={value as Rgb} driven={driven} />;
    case "stops":
    case "color_stops":
      return <StopsDial {...shared} value={value as Stop[]} join={join ?? "linear"} />;
    case "curve":
      return <CurveDial {...shared} value={value as [number, number][]} />;
    case "file":
      return <FileDial {...shared} value={value as string} />;
    case "text":
      return about.offers?.length ? (
        <WordDial {...shared} value={value as string} file={file} />
      ) : (
        <TextDial {...shared} value={value as string} />
      );
    case "choice":
      return (
        <label className="flex items-center justify-between gap-2 py-0.5" title={about.help}>
          {about.label}
          <select
            className="nodrag select select-xs w-auto min-w-24 bg-transparent"
            value={value as string}
            onChange={(e) => onChange(e.target.value)}
          >
            {(about.choices ?? []).map((one) => (
              <option key={one} value={one}>
                {one.replaceAll("_", " ")}
              </option>
            ))}
          </select>
        </label>
      );
    case "toggle":
      return (
        <label className="flex items-center justify-between gap-2 py-0.5" title={about.help}>
          {about.label}
          <input
            type="checkbox"
            className="nodrag checkbox checkbox-xs"
            checked={value as boolean}
            onChange={(e) => onChange(e.target.checked)}
          />
        </label>
      );
    case "vector":
      return (
        <div className="flex items-center gap-1 py-0.5" title={about.help}>
          {children}
          {about.label}
          <span className="figures ml-auto">{driven ? "driven" : "the form’s own"}</span>
        </div>
      );
  }
}
