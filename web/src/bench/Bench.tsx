import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactFlowInstance, ReactFlowProvider } from "@xyflow/react";
import { useEffect, useRef, useState } from "react";
import { type Options, useHotkeys } from "react-hotkeys-hook";
import { Group, Panel, Separator } from "react-resizable-panels";
import { kindOf, useCatalogue } from "../api/catalogue";
import { api, type MaterialOut, type Proof, type Settings, type StageOut } from "../api/client";
import { Gauges } from "../gauges/Gauges";
import { Substances } from "../library/Substances";
import { useChosen } from "../network/chosen";
import { copySlips, layOut, pasteSlips } from "../network/clipboard";
import { Network } from "../network/Network";
import { freePlace } from "../network/places";
import { wireTo } from "../network/ports";
import { BracketView } from "../picture/BracketView";
import { valuesAcross } from "../picture/bracket";
import { expose, Facts } from "../picture/Facts";
import { FourUp } from "../picture/FourUp";
import { Picture } from "../picture/Picture";
import { Proofs } from "../picture/Proofs";
import { Readout } from "../picture/Readouts";
import { Wipe } from "../picture/Wipe";
import { offers, Section } from "../section/Section";
import { StagePlace } from "../stage/StagePlace";
import { ConflictSheet } from "./ConflictSheet";
import {
  beginGesture,
  chooseStage,
  duplicateSlips,
  endGesture,
  history,
  open,
  placeSlip,
  runWire,
  useDocuments,
} from "./documents";
import { Finder, type Finding } from "./Finder";
import { LivePicture, useLive } from "./live";
import { Notes } from "./Notes";
import { type Place, Places } from "./Places";
import { Shortcuts } from "./Shortcuts";
import { draftOf, keepDrafts, save } from "./saving";

interface BenchProps {
  material: MaterialOut;
  materials: { id: string; name: string }[];
  stages: StageOut[];
  settings: Settings;
  place: Place;
  onGo: (place: Place) => void;
  onOpen: (id: string) => void;
  onSettings: (settings: Settings) => void;
}

/** Shortcuts work while a dial has the focus; where text is typed they do not. */
const ON_DIALS: Options = { enableOnFormTags: ["slider"] };

/** These work in choices too; letters there seek a choice. */
const ON_CHOICES: Options = { enableOnFormTags: ["slider", "select"], preventDefault: true };

/** One material on the bench. Undo is about the documents; sheets and flips are not undone. */
export function Bench({ material, materials, stages, settings, place: where, onGo, onOpen, onSettings }: BenchProps) {
  const queries = useQueryClient();
  const catalogue = useCatalogue();
  const { kinds } = catalogue;
  const canvas = useRef<HTMLCanvasElement>(null);
  const live = useRef<LivePicture>(undefined);
  const flow = useRef<Pick<ReactFlowInstance, "screenToFlowPosition">>(undefined);
  const desk = useRef<HTMLDivElement>(null);
  const [sheet, setSheet] = useState<"finder" | "shortcuts">();
  const [chosen, setChosen] = useState<number>();
  const [flipped, setFlipped] = useState(false);
  const [laidOver, layOver] = useState<"wipe" | "four">();
  const ready = useDocuments((s) => s.id === material.id);
  const keptStages = useDocuments((s) => s.keptStages);

  // biome-ignore lint/correctness/useExhaustiveDependencies: opened once; later answers of the server must not undo work
  useEffect(() => {
    const draft = draftOf(material.id);
    const stage =
      stages.find((one) => one.id === draft?.stageId) ?? stages.find((one) => one.name === "Window bench") ?? stages[0];
    open(
      draft ? { ...material, revision: draft.revision } : material,
      stages,
      stage,
      draft && { material: draft.material, stage: draft.stage, stageId: stage.id },
    );
    return keepDrafts();
  }, [material.id]);

  useEffect(() => {
    if (!ready || !canvas.current) return;
    live.current = new LivePicture(material.id, canvas.current, settings);
    return () => live.current?.close();
  }, [ready, material.id, settings]);

  const { data: proofs = [] } = useQuery({
    queryKey: ["proofs", material.id],
    queryFn: async () => {
      const { data } = await api.GET("/api/materials/{material_id}/proofs", {
        params: { path: { material_id: material.id } },
      });
      return (data ?? []) as Proof[];
    },
  });

  const keep = async () => {
    const proof = await live.current?.keep();
    if (!proof) return;
    await queries.invalidateQueries({ queryKey: ["proofs", material.id] });
    setChosen(proof.number);
    setFlipped(false);
  };
  const step = (by: number) => {
    if (!proofs.length) return;
    const at = proofs.findIndex((one) => one.number === chosen);
    const next = proofs[Math.min(Math.max(at + by, 0), proofs.length - 1)];
    setChosen(next.number);
    setFlipped(true);
  };
  const flip = () => chosen !== undefined && setFlipped((old) => !old);
  const turnTheme = () => onSettings({ ...settings, theme: settings.theme === "paper" ? "night" : "paper" });

  /** Place a slip, wired to the port that was chosen where it fits. */
  const place = (kind: string) => {
    const { port } = useChosen.getState();
    const box = desk.current?.getBoundingClientRect();
    const corner = box && flow.current?.screenToFlowPosition({ x: box.left + 28, y: box.top + 60 });
    const free = freePlace(useDocuments.getState().material.slips, corner ?? { x: 0, y: 0 });
    const at = port?.at ?? free;
    beginGesture();
    const id = placeSlip(kind, at);
    const wire = port && wireTo(catalogue, useDocuments.getState().material, id, kind, port);
    if (wire) runWire(wire);
    endGesture();
    useChosen.getState().only([id]);
    useChosen.getState().choosePort(undefined);
  };
  const hold = () => {
    const { held } = useLive.getState();
    live.current?.hold(held ? undefined : useChosen.getState().slips[0]);
  };
  const bracketDial = () => {
    const spot = document.querySelector<HTMLElement>("[data-bracket]:hover, [data-bracket]:focus-within");
    const [part, dial] = spot?.dataset.bracket?.split(" ") ?? [];
    const { material: now } = useDocuments.getState();
    const owner = now.slips.find((one) => one.id === part) ?? now.section.bands.find((one) => one.id === part);
    const role = now.slips.some((one) => one.id === part) ? "slip" : "band";
    const about = owner && kindOf(catalogue, role, owner.kind)?.dials.find((one) => one.name === dial);
    if (about?.type !== "number") return;
    const values = valuesAcross(about, about.low ?? 0, about.high ?? 1);
    live.current?.bracket(part, dial, values, []);
  };
  const duplicate = () => useChosen.getState().only(duplicateSlips(useChosen.getState().slips));
  const chooseAll = () => useChosen.getState().only(useDocuments.getState().material.slips.map((slip) => slip.id));

  const findings = (): Finding[] => {
    const slips = kinds.filter((kind) => kind.role === "slip");
    const commands: [string, string, () => void][] = [
      ["Save", "Ctrl S", () => save()],
      ["Keep a proof", "K", keep],
      ["Hold up the chosen slip, or put it down", "H", hold],
      ["Copy the chosen slips", "Ctrl C", () => copySlips()],
      ["Paste slips", "Ctrl V", () => pasteSlips()],
      ["Lay the network out", "left to right", () => layOut()],
      ["Undo", "Ctrl Z", () => history.getState().undo()],
      ["Redo", "Ctrl Shift Z", () => history.getState().redo()],
      ["Go to the bench", "place", () => onGo("bench")],
      ["Go to the stage", "place", () => onGo("stage")],
      ["Go to the library", "place", () => onGo("library")],
      ["Other theme", "paper and night", turnTheme],
      ["Shortcuts", "?", () => setSheet("shortcuts")],
    ];
    return [
      ...slips.map((kind) => ({
        title: kind.title,
        says: kind.family,
        help: kind.help,
        also: `${kind.name} ${kind.standard} ${kind.synonyms}`,
        act: () => place(kind.name),
      })),
      ...offers(catalogue).map(({ kind, add }) => ({
        title: kind.title,
        says: "band",
        help: kind.help,
        also: `${kind.name} ${kind.standard} ${kind.synonyms}`,
        act: add,
      })),
      ...commands.map(([title, help, act]) => ({ title, says: "command", help, act })),
    ];
  };

  useHotkeys("/", () => setSheet("finder"), { ...ON_DIALS, preventDefault: true, useKey: true });
  useHotkeys("?", () => setSheet("shortcuts"), { ...ON_DIALS, useKey: true });
  useHotkeys("k", keep, ON_DIALS);
  useHotkeys("h", hold, ON_DIALS);
  useHotkeys("b", bracketDial, ON_DIALS);
  useHotkeys("mod+c", () => copySlips(), ON_DIALS);
  useHotkeys("mod+v", () => pasteSlips(), ON_DIALS);
  useHotkeys(",", () => step(-1), { ...ON_DIALS, useKey: true, delimiter: "|" });
  useHotkeys(".", () => step(1), { ...ON_DIALS, useKey: true });
  useHotkeys("\\", flip, { ...ON_DIALS, useKey: true });
  useHotkeys("[", () => expose(-0.5), { ...ON_DIALS, useKey: true });
  useHotkeys("]", () => expose(0.5), { ...ON_DIALS, useKey: true });
  useHotkeys("mod+z", () => history.getState().undo(), ON_CHOICES);
  useHotkeys(["mod+shift+z", "mod+y"], () => history.getState().redo(), ON_CHOICES);
  useHotkeys("mod+s", () => save(), { preventDefault: true, enableOnFormTags: true });
  useHotkeys("mod+d", duplicate, { ...ON_DIALS, preventDefault: true });
  useHotkeys("mod+a", chooseAll, { ...ON_DIALS, preventDefault: true });

  if (!ready) return null;
  const wiped = laidOver === "wipe" ? proofs.find((one) => one.number === chosen) : undefined;
  const shown = flipped ? proofs.find((one) => one.number === chosen) : undefined;
  return (
    <div className="flex h-full flex-col">
      <Places
        materials={materials}
        stages={Object.values(keptStages)}
        place={where}
        onGo={onGo}
        theme={settings.theme}
        onOpen={onOpen}
        onStage={chooseStage}
        onTheme={turnTheme}
        onHelp={() => setSheet("shortcuts")}
        onPlace={() => setSheet("finder")}
      />
      <Group orientation="horizontal" className="min-h-0 grow">
        <Panel defaultSize="34%" minSize="300px" className="flex flex-col">
          <Picture
            ref={canvas}
            side={settings.picture_side}
            proof={shown}
            onAsk={(what, x, y) => live.current?.ask(what, x, y)}
          >
            <BracketView onBracket={(...about) => live.current?.bracket(...about)} />
            {wiped && !flipped && <Wipe picture={wiped.picture} />}
            {laidOver === "four" && (
              <FourUp
                proofs={proofs}
                onChoose={(number) => {
                  setChosen(number);
                  layOver("wipe");
                }}
              />
            )}
          </Picture>
          <Facts />
          <Readout />
          <Proofs
            proofs={proofs}
            chosen={chosen}
            flipped={flipped}
            onChoose={(number) => {
              setFlipped(chosen !== number || !flipped);
              setChosen(number);
            }}
            onFlip={flip}
            laidOver={laidOver}
            onLayOver={(what) => layOver((old) => (old === what ? undefined : what))}
            onKeep={keep}
          />
          <Gauges />
        </Panel>
        <Separator className="w-1 bg-[var(--mat-line)]" />
        {where === "stage" && (
          <Panel minSize="500px">
            <StagePlace materials={materials} />
          </Panel>
        )}
        {where === "library" && (
          <Panel minSize="500px">
            <Substances />
          </Panel>
        )}
        {where === "bench" && (
          <>
            <Panel defaultSize="44%" minSize="240px">
              <div ref={desk} className="h-full">
                <ReactFlowProvider>
                  <Network
                    onReady={(made) => {
                      flow.current = made;
                    }}
                    onPlaceAt={() => setSheet("finder")}
                  />
                </ReactFlowProvider>
              </div>
            </Panel>
            <Separator className="w-1 bg-[var(--mat-line)]" />
            <Panel defaultSize="22%" minSize="220px">
              <Section />
            </Panel>
          </>
        )}
      </Group>
      <Notes />
      {sheet === "finder" && <Finder findings={findings()} onClose={() => setSheet(undefined)} />}
      {sheet === "shortcuts" && <Shortcuts onClose={() => setSheet(undefined)} />}
      <ConflictSheet onCopy={onOpen} />
    </div>
  );
}
