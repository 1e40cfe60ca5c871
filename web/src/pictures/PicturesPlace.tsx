import { useState } from "react";
import { wordsOf } from "../api/client";
import { readAnew } from "../api/queries";
import { useDocuments } from "../bench/documents";
import { tell } from "../ui/told";
import { FinalCard, mayFinish } from "./FinalCard";
import { MotionForm } from "./MotionForm";
import { useMotion } from "./motion";
import { WantedForm } from "./WantedForm";
import { KEY, makeFinal, useFinals } from "./wanted";

/** Final pictures: how the next one is to be made, the queue, and those that are done. */
export function PicturesPlace({ aspect }: { aspect: number }) {
  const name = useDocuments((s) => `${s.material.name} on ${s.stage.name}`);
  const moves = useMotion((s) => s.moves);
  const [wantsFinish, setFinishing] = useState(false);
  const [chosenId, choose] = useState<string>();
  const finals = useFinals();
  const chosen = finals.find((one) => one.id === chosenId) ?? finals[finals.length - 1];
  const finishing = wantsFinish && !!chosen && mayFinish(chosen);
  return (
    <section className="flex h-full bg-base-100 text-base-content" aria-label="Pictures">
      {!finishing && (
        <div className="flex w-[18.5rem] shrink-0 flex-col gap-3 overflow-y-auto border-r border-base-300 p-3">
          <div>
            <h2 className="font-semibold">A final picture</h2>
            <p className="text-[var(--mute)]">of {name}, as they are now</p>
          </div>
          <div className="join" role="radiogroup" aria-label="One picture or several">
            {[false, true].map((several) => (
              <button
                key={String(several)}
                type="button"
                role="radio"
                aria-checked={moves === several}
                className={`btn btn-xs join-item grow ${moves === several ? "btn-active" : ""}`}
                onClick={() => useMotion.setState({ moves: several })}
              >
                {several ? <>a turntable, a motion</> : <>one picture</>}
              </button>
            ))}
          </div>
          {moves && <MotionForm />}
          <WantedForm aspect={aspect} />
          <button
            type="button"
            className="btn btn-sm bg-marker text-[#1d1d1d]"
            onClick={async () => choose((await makeFinal(aspect))?.id)}
          >
            Make it <kbd className="key">J</kbd>
          </button>
          <h2 className="font-semibold">Queue and pictures</h2>
          {finals.length === 0 && (
            <p className="text-[var(--mute)]">None yet. Say how large and how free of noise, and make one.</p>
          )}
          <ul aria-label="Queue and pictures">
            {finals.map((one) => (
              <li key={one.id}>
                <button
                  type="button"
                  className={`flex w-full items-center gap-2 border-b border-base-300 py-1 text-left ${one === chosen ? "" : "hover:bg-base-200"}`}
                  aria-pressed={one === chosen}
                  onClick={() => choose(one.id)}
                >
                  <span className="h-9 w-12 shrink-0 bg-[var(--mat)]">
                    {one.preview && <img src={one.preview} alt="" className="h-full w-full object-cover" />}
                  </span>
                  <span className="min-w-0 grow">
                    <span className={`block truncate ${one === chosen ? "marked" : ""}`}>{one.name}</span>
                    <span className="figures block truncate text-[11px] text-[var(--mute)]">
                      {one.state} · {one.final.width}×{one.final.height}
                      {one.motion && ` · ${one.frames_done}/${one.motion.frames}`}
                      {one.noise != null && ` · ${(100 * one.noise).toPrecision(2)} %`}
                    </span>
                  </span>
                </button>
              </li>
            ))}
          </ul>
        </div>
      )}
      {chosen ? (
        <FinalCard
          key={chosen.id}
          of={chosen}
          isFirst={chosen === finals[0]}
          finishing={finishing}
          onFinish={setFinishing}
          onAct={act}
        />
      ) : (
        <p className="m-auto max-w-80 text-center text-[var(--mute)]">
          A final picture is made behind, chunk by chunk. It goes on when the browser or the server is closed and
          started again, and gives way to the bench.
        </p>
      )}
    </section>
  );
}

/** Ask something of a final picture, and look how it is then. */
async function act(what: Promise<{ error?: unknown }>): Promise<void> {
  const { error } = await what;
  if (error) tell(wordsOf(error));
  await readAnew(KEY);
}
