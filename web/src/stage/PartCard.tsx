import { dialsOf, dialValue, effective, useCatalogue } from "../api/catalogue";
import type { StagePart } from "../api/client";
import { changePart, ON_STAGE } from "../bench/documents";
import { Dial } from "../ui/Dial";

interface PartCardProps {
  /** Where it is in the stage: "objects.0.form", "lamps.1", "surround.light", "camera". */
  path: string;
  of: string;
  part: StagePart;
  label?: string;
}

/** A part of the stage of a kind from the catalogue: its kind, and its dials as they are described. */
export function PartCard({ path, of, part, label }: PartCardProps) {
  const { kinds } = useCatalogue();
  const ofRole = kinds.filter((kind) => kind.role === of);
  const about = ofRole.find((kind) => kind.name === part.kind);
  return (
    <div>
      {ofRole.length > 1 && (
        <label className="flex items-center justify-between gap-2 py-1" title={about?.help}>
          {label ?? "Kind"}
          <select
            className="select select-xs w-auto max-w-44 bg-transparent"
            value={part.kind}
            onChange={(e) => changePart(path, (one) => ({ ...one, kind: e.target.value, dials: {} }))}
          >
            {ofRole.map((kind) => (
              <option key={kind.name} value={kind.name}>
                {kind.title}
              </option>
            ))}
          </select>
        </label>
      )}
      {about &&
        effective(dialsOf(about), part).map((dial) => (
          <Dial
            key={`${part.kind}.${dial.name}`}
            about={dial}
            value={dialValue(part, dial)}
            of={ON_STAGE + path}
            compact
          />
        ))}
    </div>
  );
}
