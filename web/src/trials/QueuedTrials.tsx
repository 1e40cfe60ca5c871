import { useEffect } from "react";
import { api, wordsOf } from "../api/client";
import { readAnew } from "../api/queries";
import { KEY, useFinals } from "../pictures/wanted";
import { tell } from "../ui/told";

/** Trials that are made in the queue, as far as they are; those that are done are kept. */
export function QueuedTrials({ onKept }: { onKept: () => void }) {
  const finals = useFinals();
  const queued = finals.filter((one) => one.trial && one.state !== "done");
  const kept = finals.filter((one) => one.trial && one.state === "done").length;
  // biome-ignore lint/correctness/useExhaustiveDependencies: whenever another one is kept
  useEffect(() => {
    onKept();
  }, [kept]);
  const cancel = async (picture_id: string) => {
    const { error } = await api.DELETE("/api/pictures/{picture_id}", { params: { path: { picture_id } } });
    if (error) tell(wordsOf(error));
    readAnew(KEY);
  };
  if (queued.length === 0) return null;
  return (
    <section aria-label="Trials in the queue">
      <h2 className="font-semibold">In the queue</h2>
      <ul>
        {queued.map((one) => {
          const cells = (one.trial?.rows ?? 1) * (one.trial?.columns ?? 1);
          return (
            <li key={one.id} className="border-b border-base-300 py-1.5">
              <p className="truncate" title={one.name}>
                {one.name}
              </p>
              <progress className="progress h-1 w-full" aria-label={one.name} value={one.frames_done} max={cells} />
              <p className="flex gap-2.5 text-[var(--mute)]">
                {one.state}, {one.frames_done} of {cells}
                <button type="button" className="ml-auto hover:underline" onClick={() => cancel(one.id)}>
                  cancel
                </button>
              </p>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
