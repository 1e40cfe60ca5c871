import { useState } from "react";
import { api, type KeptTrial, wordsOf } from "../api/client";
import { PeopleSheet } from "../people/PeopleSheet";
import { tell } from "../ui/told";

interface KeptTrialsProps {
  kept: KeptTrial[];
  onAgain: (kept: KeptTrial) => void;
  onGone: () => void;
}

/** Trials that were kept: looked at, made again, taken out as a picture or a table. */
export function KeptTrials({ kept, onAgain, onGone }: KeptTrialsProps) {
  const [shared, share] = useState<KeptTrial>();
  const remove = async (one: KeptTrial) => {
    const { error } = await api.DELETE("/api/trials/{trial_id}", { params: { path: { trial_id: one.id } } });
    if (error) tell(wordsOf(error));
    onGone();
  };
  return (
    <section aria-label="Kept trials">
      <h2 className="font-semibold">Kept trials</h2>
      {kept.length === 0 && <p className="text-[var(--mute)]">None yet.</p>}
      <ul>
        {kept.map((one) => (
          <li key={one.id} className="border-b border-base-300 py-1.5">
            <a href={one.picture} target="_blank" rel="noreferrer" title="the whole sheet">
              <img
                src={one.picture}
                alt={one.name}
                className="max-h-28 w-full border border-base-300 object-cover object-top"
              />
            </a>
            <p className="truncate" title={one.name}>
              {one.name}
            </p>
            <p className="flex gap-2.5 text-[var(--mute)]">
              <button
                type="button"
                className="hover:underline"
                title="Made again of what is on the bench now; what changed is told"
                onClick={() => onAgain(one)}
              >
                again
              </button>
              <a className="hover:underline" href={one.picture} download={`${one.name}.png`}>
                PNG
              </a>
              <a className="hover:underline" href={one.table} download={`${one.name}.csv`}>
                CSV
              </a>
              {one.may === "own" ? (
                <>
                  <button type="button" className="ml-auto hover:underline" onClick={() => share(one)}>
                    share
                  </button>
                  <button type="button" className="hover:underline" onClick={() => remove(one)}>
                    remove
                  </button>
                </>
              ) : (
                <span className="ml-auto">{one.owner}'s</span>
              )}
            </p>
          </li>
        ))}
      </ul>
      {shared && (
        <PeopleSheet
          things={[{ kind: "trial", of: shared.id, name: shared.name, isMine: true }]}
          onClose={() => share(undefined)}
        />
      )}
    </section>
  );
}
