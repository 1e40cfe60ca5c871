import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useCatalogue } from "../api/catalogue";
import {
  api,
  type KeptTrial,
  type Material,
  type MaterialLine,
  type Proof,
  type Ready,
  type Stage,
  type Trial,
  wordsOf,
} from "../api/client";
import { readAnew } from "../api/queries";
import { changeMaterial, changeStage, inOneStep, useDocuments } from "../bench/documents";
import type { LivePicture } from "../bench/live";
import { queueTrial } from "../pictures/wanted";
import { tell } from "../ui/told";
import { AxisChooser, type Wanted } from "./AxisChooser";
import { type Axis, axisOf, MOST_ALONG, turnables } from "./axes";
import { KeptSwatches } from "./KeptSwatches";
import { KeptTrials } from "./KeptTrials";
import { MaterialsSheet } from "./MaterialsSheet";
import { QueuedTrials } from "./QueuedTrials";
import { Reference } from "./Reference";
import { beginRun, type Run, sizeOf, useRun } from "./run";
import { SheetOfPictures } from "./SheetOfPictures";
import { SwatchSolve } from "./SwatchSolve";

interface TrialsPlaceProps {
  id: string;
  materials: MaterialLine[];
  proofs: Proof[];
  live: () => LivePicture | undefined;
  onBench: () => void;
  onOpen: (material: string) => void;
}

/** Strips, sheets and "stands up?": what is to be turned, the pictures, and those that were kept. */
export function TrialsPlace({ id, materials, proofs, live, onBench, onOpen }: TrialsPlaceProps) {
  const catalogue = useCatalogue();
  const material = useDocuments((s) => s.material);
  const stage = useDocuments((s) => s.stage);
  const keptStages = useDocuments((s) => s.keptStages);
  const [across, setAcross] = useState<Wanted>();
  const [down, setDown] = useState<Wanted>();
  const [choosing, choose] = useState(false);
  const [behind, setBehind] = useState(false);
  const [against, holdAgainst] = useState(false);
  const run = useRun((s) => s.run);
  const { data: ready = [] } = useQuery({
    queryKey: ["ready", material.section],
    queryFn: async () => ((await api.POST("/api/trials/ready", { body: { material } })).data ?? []) as Ready[],
  });
  const { data: kept = [] } = useQuery({
    queryKey: ["trials", id],
    queryFn: async () =>
      ((await api.GET("/api/trials", { params: { query: { material_id: id } } })).data ?? []) as KeptTrial[],
  });
  const all = turnables(catalogue, material, stage);
  const axis = (wanted?: Wanted) => {
    const one = all.find(({ key }) => key === wanted?.key);
    return wanted && one && axisOf(one, wanted.low, wanted.high, wanted.count);
  };
  const make = (
    name: string,
    first: Axis,
    second: Axis | null,
    before?: KeptTrial["means"],
    materials: string[] = [],
  ) => {
    if (behind) return queueTrial(trialOf(name, first, second));
    holdAgainst(false);
    live()?.trial(beginRun(name, first, second, before, materials));
  };
  const trialOf = (name: string, first: Axis, second: Axis | null): Trial => ({
    ...{ format: "nineglass.trial", version: 1, name, material, stage, across: first, down: second },
  });
  const makeChosen = () => {
    const [first, second] = [axis(across), axis(down)];
    if (!first) tell("Choose what is turned across first.");
    else
      make(
        second ? `${first.label} against ${second.label}`.slice(0, 120) : first.label || "Strip",
        first,
        second ?? null,
      );
  };
  const laySideBySide = async (ids: string[]) => {
    const answers = await Promise.all(
      ids.map((material_id) => api.GET("/api/materials/{material_id}", { params: { path: { material_id } } })),
    );
    const others = answers.flatMap(({ data }) => (data ? [data.document as Material] : []));
    if (others.length < ids.length) return tell("One of them is no longer there; choose again.");
    const first: Axis = { kind: "materials", materials: [material, ...others], label: "" };
    make("Side by side", first, null, undefined, [id, ...ids]);
  };
  const stagesAxis = (): Axis => {
    const others = Object.values(keptStages).filter((one) => one.document.name !== stage.name);
    return { kind: "stages", stages: [stage, ...others.map((one) => one.document)].slice(0, MOST_ALONG), label: "" };
  };
  const keep = async () => {
    const one = await live()
      ?.keepTrial()
      .catch((why: Error) => tell(`Not kept: ${why.message}. Keep it again.`));
    if (one) readAnew(["trials", id]);
  };
  const lay = async (current: Run, k: number) => {
    const { columns } = sizeOf(current);
    const another = current.across.kind === "materials" && current.materials[k % columns];
    if (another) {
      if (another !== id) onOpen(another);
      return onBench();
    }
    const trial = trialOf(current.name, current.across, current.down);
    const body = { trial, row: Math.floor(k / columns), column: k % columns };
    const { data, error } = await api.POST("/api/trials/cell", { body });
    if (!data) return tell(wordsOf(error));
    inOneStep(() => {
      changeMaterial(() => data.material as typeof material);
      changeStage(() => data.stage as Stage);
    });
    onBench();
  };
  return (
    <section className="flex h-full bg-base-100 text-base-content" aria-label="Trials">
      <div className="flex w-[17rem] shrink-0 flex-col gap-3 overflow-y-auto border-r border-base-300 p-3">
        <div>
          <h2 className="font-semibold">Always tried</h2>
          {ready.map((one) => (
            <button
              type="button"
              key={one.name}
              className="block min-h-6 w-full text-left hover:underline"
              onClick={() => make(one.name, one.across, one.down ?? stagesAxis())}
            >
              {one.name}
            </button>
          ))}
        </div>
        <AxisChooser label="Across" all={all} wanted={across} onChange={setAcross} />
        <AxisChooser label="Down" all={all} wanted={down} onChange={setDown} mayBeNone />
        <button type="button" className="btn btn-sm bg-marker text-[#1d1d1d]" onClick={makeChosen}>
          {down ? <>Make the sheet</> : <>Make the strip</>}
        </button>
        <label
          className="flex items-start gap-1.5"
          title="It goes on when the browser or the bench is closed, and is kept"
        >
          <input
            type="checkbox"
            className="checkbox checkbox-xs mt-0.5"
            checked={behind}
            onChange={(e) => setBehind(e.target.checked)}
          />
          in the queue, while I work on
        </label>
        <button type="button" className="btn btn-sm" onClick={() => choose(true)}>
          Beside other materials
        </button>
        <button type="button" className="btn btn-sm" aria-pressed={against} onClick={() => holdAgainst(!against)}>
          {against ? "Back to the trials" : "Against a photograph"}
        </button>
        <SwatchSolve />
        <KeptSwatches />
        <QueuedTrials onKept={() => readAnew(["trials", id])} />
        <KeptTrials
          kept={kept}
          onAgain={(one) => make(one.name, one.across, one.down, one.means)}
          onGone={() => readAnew(["trials", id])}
        />
      </div>
      {against ? (
        <Reference proofs={proofs} />
      ) : run ? (
        <SheetOfPictures
          key={run.run}
          run={run}
          onKeep={keep}
          onLay={(k) => lay(run, k)}
          onStop={() => live()?.leaveTrial()}
        />
      ) : (
        <p className="m-auto max-w-80 text-center text-[var(--mute)]">
          Nothing is tried yet. Take one of those that are always tried, or choose a dial across, and one down for a
          sheet.
        </p>
      )}
      {choosing && (
        <MaterialsSheet
          materials={materials.filter((one) => one.id !== id)}
          onClose={() => choose(false)}
          onMake={laySideBySide}
        />
      )}
    </section>
  );
}
