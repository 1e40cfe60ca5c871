import { dialsOf, dialValue, effective, useCatalogue } from "../api/catalogue";
import { api, type DialValue, type FinalPicture, type Finish, type FinishStep, type Kind } from "../api/client";
import { FreeDial } from "../ui/Dial";
import { joinOf } from "../ui/stops";
import { beginFinish, changeFinish, finishedAddress, removeFinish, useFinishes } from "./finish";

interface FinishPanelProps {
  of: FinalPicture;
  frame: number;
  onAct: (what: Promise<{ error?: unknown }>) => Promise<void>;
}

/** The finish that a picture wears: chosen, begun, turned. All pictures that wear it follow. */
export function FinishPanel({ of, frame, onAct }: FinishPanelProps) {
  const { views, kinds } = useCatalogue();
  const finishes = useFinishes();
  const worn = finishes.find(({ id }) => id === of.finish_id);
  const wear = (finish_id: string | null) =>
    onAct(
      api.POST("/api/pictures/{picture_id}/finish", { params: { path: { picture_id: of.id } }, body: { finish_id } }),
    );
  const choose = async (value: string) => {
    if (value !== NEW) return wear(value || null);
    const begun = await beginFinish(`Finish ${finishes.length + 1}`);
    if (begun) await wear(begun.id);
  };
  const set = (about: Partial<Finish>) => worn && changeFinish(worn.id, { ...worn.document, ...about });
  const steps = (worn?.document.steps ?? []) as FinishStep[];
  const setStep = (kind: string, about: Partial<FinishStep>) => {
    const is = steps.some((one) => one.kind === kind);
    const all = is ? steps : [...steps, { kind, dials: {}, on: true }];
    set({ steps: all.map((one) => (one.kind === kind ? { ...one, ...about } : one)) });
  };
  return (
    <section
      className="flex w-64 shrink-0 flex-col gap-2 overflow-y-auto border-l border-base-300 p-3"
      aria-label="Finish"
    >
      <h2 className="font-semibold">Finish</h2>
      <select
        className="select select-xs w-full bg-transparent"
        aria-label="Finish of this picture"
        value={worn?.id ?? ""}
        onChange={(e) => choose(e.target.value)}
      >
        <option value="">none: as it was made</option>
        {finishes.map(({ id, document }) => (
          <option key={id} value={id}>
            {document.name}
          </option>
        ))}
        <option value={NEW}>a new one</option>
      </select>
      {!worn && (
        <p className="text-[var(--mute)]">
          Exposure, white, a curve, glare of the lens, its fringe, grain: done to the picture after the light, and only
          to what is shown. Several pictures may share one finish.
        </p>
      )}
      {worn && (
        <>
          <label className="flex items-center justify-between gap-2">
            Name
            <input
              className="input input-xs w-36 bg-transparent"
              key={worn.document.name}
              defaultValue={worn.document.name}
              onKeyDown={(e) => e.stopPropagation()}
              onBlur={(e) => e.target.value.trim() && set({ name: e.target.value.trim().slice(0, 120) })}
            />
          </label>
          <label className="flex items-center justify-between gap-2">
            View
            <select
              className="select select-xs w-36 bg-transparent"
              value={worn.document.view ?? ""}
              onChange={(e) => set({ view: (e.target.value || null) as Finish["view"] })}
            >
              <option value="">as the stage has it</option>
              {views.map(({ name, title }) => (
                <option key={name} value={name}>
                  {title}
                </option>
              ))}
            </select>
          </label>
          {kinds
            .filter(({ role }) => role === "finish")
            .map((kind) => (
              <Step
                key={kind.name}
                kind={kind}
                step={steps.find((one) => one.kind === kind.name)}
                onSet={(about) => setStep(kind.name, about)}
              />
            ))}
          <p className="flex flex-wrap gap-3 border-t border-base-300 pt-2">
            <a
              className="hover:underline"
              title="Linear light with this finish in it, full size; the EXR above has none of it"
              href={finishedAddress("exr", of.id, worn.document, frame, `${of.samples}`)}
              download
            >
              EXR with it
            </a>
            <button type="button" className="ml-auto hover:underline" onClick={() => removeFinish(worn.id)}>
              remove this finish
            </button>
          </p>
        </>
      )}
    </section>
  );
}

const NEW = "new";

interface StepProps {
  kind: Kind;
  step?: FinishStep;
  onSet: (about: Partial<FinishStep>) => void;
}

function Step({ kind, step, onSet }: StepProps) {
  const part = { dials: (step?.dials ?? {}) as Record<string, DialValue> };
  const isOn = step?.on ?? false;
  const dials = dialsOf(kind);
  return (
    <fieldset className="border-t border-base-300 pt-1" aria-label={kind.title}>
      <label className="flex min-h-6 items-center gap-1.5" title={kind.help}>
        <input
          type="checkbox"
          className="toggle toggle-xs"
          checked={isOn}
          onChange={(e) => onSet({ on: e.target.checked })}
        />
        {kind.title}
      </label>
      {isOn &&
        effective(dials, part).map((about) => (
          <FreeDial
            key={about.name}
            about={about}
            value={dialValue(part, about)}
            join={joinOf(about, part.dials, dials)}
            onChange={(value) => onSet({ dials: { ...part.dials, [about.name]: value } })}
          />
        ))}
    </fieldset>
  );
}
