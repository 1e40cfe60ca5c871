import { useCatalogue } from "../api/catalogue";
import type { Proof } from "../api/client";
import { changeMaterial, changeStage, useDocuments } from "../bench/documents";
import { differences } from "./differences";

interface ProofsProps {
  proofs: Proof[];
  /** Numbers of those of which something was said. */
  spokenOf: Set<number>;
  /** Number of the proof to compare with. */
  chosen?: number;
  /** Whether it is shown in place of the live picture. */
  flipped: boolean;
  onChoose: (number: number) => void;
  onFlip: () => void;
  /** What is laid over the live picture: a part of the proof, or four of them. */
  laidOver?: "wipe" | "four";
  onLayOver: (what: "wipe" | "four") => void;
  onKeep: () => void;
}

export function Proofs({
  proofs,
  spokenOf,
  chosen,
  flipped,
  onChoose,
  onFlip,
  laidOver,
  onLayOver,
  onKeep,
}: ProofsProps) {
  const proof = proofs.find((one) => one.number === chosen);
  const catalogue = useCatalogue();
  const material = useDocuments((s) => s.material);
  const said = proof ? differences(catalogue, proof.document, material) : [];
  return (
    <div className="mat flex h-[58px] items-center gap-1.5 border-b border-[var(--mat-line)] bg-[var(--color-neutral)] px-3 text-[var(--mat-ink)]">
      <div className="flex min-w-0 gap-1.5 overflow-x-auto py-1">
        {proofs.length === 0 && <span>No proofs yet: keep one to compare with.</span>}
        {proofs.map((one) => (
          <button
            type="button"
            key={one.id}
            className="relative h-11 w-11 shrink-0 border border-black"
            aria-label={`Proof ${one.number}, ${one.samples} samples${spokenOf.has(one.number) ? ", with comments" : ""}`}
            aria-pressed={one.number === chosen}
            onClick={() => onChoose(one.number)}
          >
            <img src={one.picture} alt="" className="h-full w-full object-cover" />
            <span
              className={`figures absolute top-0 left-0 px-1 ${one.number === chosen ? "bg-marker text-[#1d1d1d]" : "bg-[#000a] text-white"}`}
            >
              {one.number}
            </span>
            {spokenOf.has(one.number) && (
              <span className="absolute right-0 bottom-0 h-2.5 w-2.5 border border-black bg-marker" />
            )}
          </button>
        ))}
      </div>
      <div className="ml-auto shrink-0">
        <div className="flex items-center justify-end gap-2.5">
          {proof && (
            <button
              type="button"
              className="py-1 hover:underline"
              onClick={() => takeUp(proof)}
              title="Put this proof's material back on the bench, and its stage where it is the same one; undo goes back"
            >
              take up
            </button>
          )}
          {proofs.length > 1 && <Over what="four" laidOver={laidOver} onLayOver={onLayOver} />}
          {proof && <Over what="wipe" laidOver={laidOver} onLayOver={onLayOver} />}
          {proof && (
            <button type="button" className="py-1 hover:underline" aria-pressed={flipped} onClick={onFlip}>
              <span className={flipped ? "marked" : ""}>flip</span> <kbd className="key">\</kbd>
            </button>
          )}
          <button type="button" className="py-1 hover:underline" onClick={onKeep}>
            keep <kbd className="key">K</kbd>
          </button>
        </div>
        {proof && (
          <p
            className="max-w-60 truncate text-right text-[11px]"
            role="note"
            aria-label="Since the proof"
            title={said.join("\n")}
          >
            {said.length ? `${said[0]}${said.length > 1 ? ` and ${said.length - 1} more` : ""}` : "as the proof"}
          </p>
        )}
      </div>
    </div>
  );
}

function Over({ what, laidOver, onLayOver }: { what: "wipe" | "four" } & Pick<ProofsProps, "laidOver" | "onLayOver">) {
  return (
    <button
      type="button"
      className="py-1 hover:underline"
      aria-pressed={laidOver === what}
      onClick={() => onLayOver(what)}
    >
      <span className={laidOver === what ? "marked" : ""}>{what}</span>
    </button>
  );
}

function takeUp(proof: Proof): void {
  changeMaterial(() => proof.document);
  if (useDocuments.getState().stage.name === proof.stage.name) changeStage(() => proof.stage);
}
