import { useCatalogue } from "../api/catalogue";
import type { Proof } from "../api/client";
import { useDocuments } from "../bench/documents";
import { differences } from "./differences";

const MOST = 4;

/** The newest four proofs side by side over the picture, each with what differs from it now. */
export function FourUp({ proofs, onChoose }: { proofs: Proof[]; onChoose: (number: number) => void }) {
  const catalogue = useCatalogue();
  const material = useDocuments((s) => s.material);
  return (
    <ul className="absolute inset-0 grid grid-cols-2 gap-0.5 bg-[var(--mat)]" aria-label="Four proofs">
      {proofs.slice(-MOST).map((proof) => {
        const said = differences(catalogue, proof.document, material);
        return (
          <li key={proof.id} className="relative min-h-0">
            <button type="button" className="block h-full w-full" onClick={() => onChoose(proof.number)}>
              <img src={proof.picture} alt={`proof ${proof.number}`} className="h-full w-full object-cover" />
              <span className="absolute right-0 bottom-0 left-0 bg-[#000c] px-1.5 py-0.5 text-left text-[11px] text-white">
                <b className="figures">{proof.number}</b>{" "}
                {said.length ? `since then: ${said.slice(0, 2).join("; ")}` : "as the material is now"}
                {said.length > 2 && `; ${said.length - 2} more`}
              </span>
            </button>
          </li>
        );
      })}
    </ul>
  );
}
