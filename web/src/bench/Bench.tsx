import { useQuery } from "@tanstack/react-query";
import { ReactFlowProvider } from "@xyflow/react";
import { useCallback, useEffect, useRef, useState } from "react";
import { type Options, useHotkeys } from "react-hotkeys-hook";
import { Group, type GroupImperativeHandle, Panel, Separator } from "react-resizable-panels";
import { useCatalogue } from "../api/catalogue";
import { api, type MaterialLine, type MaterialOut, type Proof, type Settings, type StageOut } from "../api/client";
import { readAnew } from "../api/queries";
import { Gauges } from "../gauges/Gauges";
import { Library } from "../library/Library";
import { useChosen } from "../network/chosen";
import { copySlips, layOut, paste } from "../network/clipboard";
import { focusSlip, setCentring } from "../network/going";
import { closeModule, groupSlips, openUse } from "../network/grouping";
import { moduleAt } from "../network/modules";
import { type Flow, Network } from "../network/Network";
import { align, duplicate, putMountUnder } from "../network/paper";
import { paperNow } from "../network/ports";
import { Comments } from "../people/Comments";
import { Pins } from "../people/Pins";
import { useComments } from "../people/people";
import { BracketView } from "../picture/BracketView";
import { valuesAcross } from "../picture/bracket";
import { expose, Facts } from "../picture/Facts";
import { FourUp } from "../picture/FourUp";
import { Looks, turnDisplay } from "../picture/Looks";
import { Picture } from "../picture/Picture";
import { Proofs } from "../picture/Proofs";
import type { Part } from "../picture/part";
import { Readout } from "../picture/Readouts";
import { Wipe } from "../picture/Wipe";
import { PicturesPlace } from "../pictures/PicturesPlace";
import { makeFinal } from "../pictures/wanted";
import { ModuleFace } from "../section/ModuleFace";
import { Section } from "../section/Section";
import { StagePlace } from "../stage/StagePlace";
import { TrialsPlace } from "../trials/TrialsPlace";
import { pointedDial } from "../ui/pointed";
import { Told } from "../ui/Told";
import { tell } from "../ui/told";
import { colorAsTheSkin } from "./asTheSkin";
import { ConflictSheet } from "./ConflictSheet";
import { chooseStage, history, open, openDraft, useDocuments } from "./documents";
import { FindSheet } from "./FindSheet";
import type { Command } from "./findings";
import { LivePicture, useLive } from "./live";
import { Notes } from "./Notes";
import { type Place, Places } from "./Places";
import { type Arrangement, arrange, keepPanes } from "./panes";
import { placeFromLibrary, setCorner } from "./placing";
import { Shortcuts } from "./Shortcuts";
import { StartSheet } from "./StartSheet";
import { copyOfMaterial, draftOf, keepDrafts, makeMaterial, save } from "./saving";

interface BenchProps {
  material: MaterialOut;
  materials: MaterialLine[];
  stages: StageOut[];
  /** The stage that the material stood on last. */
  standsOn?: string;
  settings: Settings;
  place: Place;
  onGo: (place: Place, material?: string) => void;
  onOpen: (id: string) => void;
  onSettings: (settings: Settings) => void;
}

/** Pixels of the page above and below the picture, with the gauges and without them. */
const BESIDES = 384;
const BESIDES_FILLED = 190;

const WAS_OLDER =
  'This material was kept in an older version, and is brought up. What was changed stands in the Library, under "hand over".';

/** How often it is looked for proofs of others who are here. */
const LOOKS_AGAIN_MS = 5000;

/** Where a material stands that has stood nowhere yet. */
const isUsual = ({ name }: StageOut) => name === "Window bench";

const isTextField = (target: EventTarget | null) =>
  (target instanceof HTMLInputElement && !["checkbox", "radio", "range"].includes(target.type)) ||
  target instanceof HTMLTextAreaElement;

/** These work in choices too; where text is typed no shortcut does. */
const ON_CHOICES: Options = {
  enableOnFormTags: true,
  preventDefault: true,
  ignoreEventWhen: ({ target }) => isTextField(target),
};

/** Shortcuts work while a dial has the focus; letters in a choice seek it. */
const ON_DIALS: Options = {
  enableOnFormTags: true,
  ignoreEventWhen: ({ target }) => isTextField(target) || target instanceof HTMLSelectElement,
};

/** A sheet or a strip of pictures closes by itself. */
const closeUnlessCovered = () => {
  if (!document.querySelector("dialog[open], [role=dialog]")) closeModule();
};

/** One material on the bench. Undo is about the documents; sheets and flips are not undone. */
export function Bench({
  material,
  materials,
  stages,
  standsOn,
  settings,
  place: where,
  onGo,
  onOpen,
  onSettings,
}: BenchProps) {
  const catalogue = useCatalogue();
  const canvas = useRef<HTMLCanvasElement>(null);
  const live = useRef<LivePicture>(undefined);
  const flow = useRef<Flow>(undefined);
  const desk = useRef<HTMLDivElement>(null);
  const [shortcuts, showShortcuts] = useState(false);
  const finding = useChosen((s) => s.finding);
  const { find } = useChosen.getState();
  const openedModule = useDocuments((s) => (s.material ? moduleAt(s.material, s.inside) : undefined));
  const [chosen, setChosen] = useState<number>();
  const [flipped, setFlipped] = useState(false);
  const [laidOver, layOver] = useState<"wipe" | "four">();
  const [fills, fill] = useState(false);
  const [starting, setStarting] = useState(false);
  const panes = useRef<GroupImperativeHandle>(null);
  const shape = useDocuments((s) => s.stage?.shape);
  const isBare = useDocuments((s) => s.id === material.id && s.material?.slips.length === 0);
  const arrangement: Arrangement = fills ? "filled" : isBare ? "bare" : "wired";
  const aspect = catalogue.shapes.find(({ name }) => name === shape)?.aspect ?? 1;
  const room = useRef<[number, number]>(undefined);
  const ready = useDocuments((s) => s.id === material.id);
  const keptStages = useDocuments((s) => s.keptStages);

  // biome-ignore lint/correctness/useExhaustiveDependencies: opened once; later answers of the server must not undo work
  useEffect(() => {
    let isHere = true;
    let stopKeeping = () => {};
    draftOf(material.id).then((draft) => {
      if (!isHere) return;
      putOn(draft);
      stopKeeping = keepDrafts();
    });
    return () => {
      isHere = false;
      stopKeeping();
    };
  }, [material.id]);

  useEffect(() => {
    if (material.was_older) tell(WAS_OLDER);
  }, [material.was_older]);

  const putOn = (draft: Awaited<ReturnType<typeof draftOf>>) => {
    const wanted = [({ id }: StageOut) => id === draft?.stageId, ({ id }: StageOut) => id === standsOn, isUsual];
    const stage = wanted.map((is) => stages.find(is)).find((one) => one) ?? stages[0];
    if (draft) openDraft({ ...material, revision: draft.revision }, stages, stage, draft);
    else open(material, stages, stage);
  };

  const newest = useRef(settings);
  newest.current = settings;
  useEffect(() => {
    if (!ready || !canvas.current) return;
    live.current = new LivePicture(material.id, canvas.current, newest.current);
    if (room.current) live.current.setRoom(...room.current);
    return () => live.current?.close();
  }, [ready, material.id]);
  useEffect(() => live.current?.takeSettings(settings), [settings]);

  useEffect(() => {
    if (!ready || where !== "bench") return;
    const later = requestAnimationFrame(() => panes.current && arrange(panes.current, arrangement));
    return () => cancelAnimationFrame(later);
  }, [ready, where, arrangement]);

  useEffect(() => {
    setCorner(() => {
      const box = desk.current?.getBoundingClientRect();
      return (box && flow.current?.screenToFlowPosition({ x: box.left + 28, y: box.top + 60 })) ?? { x: 0, y: 0 };
    });
    setCentring((id) => flow.current?.fitView({ nodes: [{ id }], maxZoom: 1 }));
  }, []);

  const isShared = useLive((s) => Boolean(s.here?.others.length));
  const { data: proofs = [] } = useQuery({
    queryKey: ["proofs", material.id],
    refetchInterval: isShared && LOOKS_AGAIN_MS,
    queryFn: async () => {
      const { data } = await api.GET("/api/materials/{material_id}/proofs", {
        params: { path: { material_id: material.id } },
      });
      return (data ?? []) as Proof[];
    },
  });

  const comments = useComments(material.id);

  const keep = async () => {
    const proof = await live.current?.keep().catch((why: Error) => tell(`Not kept: ${why.message}. Keep again.`));
    if (!proof) return;
    await readAnew(["proofs", material.id]);
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

  const hold = () => {
    const { held } = useLive.getState();
    const [slip] = useChosen.getState().slips;
    const path = [...useDocuments.getState().inside, slip].join("/");
    live.current?.hold(held || !slip ? undefined : path);
  };
  const turnSmoothing = () => live.current?.turnSmoothing();
  const turnStops = () => live.current?.turnStops();
  const turnApart = () => live.current?.turnApart();
  const makePart = useCallback((part?: Part) => live.current?.makePart(part), []);
  const takeRoom = useCallback((width: number, height: number) => {
    room.current = [width, height];
    live.current?.setRoom(width, height);
  }, []);
  const bracketDial = () => {
    const spot = pointedDial();
    if (spot?.about.type !== "number") return;
    live.current?.bracket(spot, valuesAcross(spot.about, spot.about.low ?? 0, spot.about.high ?? 1), []);
  };
  const chosenSlips = () => {
    const ids = useChosen.getState().slips;
    return paperNow().slips.filter((slip) => ids.includes(slip.id));
  };
  const duplicateChosen = () => useChosen.getState().only(duplicate(useChosen.getState().slips));
  const chooseAll = () => useChosen.getState().only(paperNow().slips.map((slip) => slip.id));
  const group = () => {
    const use = groupSlips(catalogue, useChosen.getState().slips);
    if (use) focusSlip(use);
  };
  const openChosen = () => {
    const [slip] = useChosen.getState().slips;
    if (slip) openUse(slip);
  };
  const mount = () => {
    const slips = chosenSlips();
    const height = (id: string) => document.querySelector<HTMLElement>(`[data-id="${id}"]`)?.offsetHeight;
    const heights = Object.fromEntries(slips.map(({ id }) => [id, height(id) ?? 0]));
    if (slips.length) useChosen.getState().only([putMountUnder(slips, heights)]);
  };

  const make = async (isCopy: boolean) => {
    const made = await makeMaterial(isCopy);
    if (made) onOpen(made);
  };

  const commands: Command[] = [
    ["Smoothed or as rendered", "Take noise out of the picture while it settles, or show its grain", turnSmoothing],
    ["Plain or film-like", "V: the view that the picture is shown in", () => turnDisplay(catalogue.views)],
    ["Stops from mid grey", "T: how bright each part is", turnStops],
    ["Lights apart", "Y: turn them without making the picture again", turnApart],
    ["The picture fills the place", "W; again: back", () => fill((old) => !old)],
    ["The whole picture", "R: no longer a part of it alone", () => makePart()],
    ["New material", "begin from a family, or from clear glass", () => setStarting(true)],
    ["Copy this material", "and go on with the copy", () => make(true)],
    ["Save", "Ctrl S", () => save()],
    ["Keep a proof", "K", keep],
    ["Make a final picture", "J: of what is on the bench, as it was said last", () => makeFinal(aspect)],
    ["Hold up the chosen slip, or put it down", "H", hold],
    ["Make a module of the chosen slips", "M", group],
    ["Open the chosen module", "O", openChosen],
    ["Close the module", "Esc", closeModule],
    ["Put a mount under the chosen slips", "a titled sheet", mount],
    ["Copy the chosen slips", "Ctrl C", () => copySlips()],
    ["Paste slips and bands", "Ctrl V", () => paste(catalogue)],
    ["Lay the network out", "left to right", () => layOut()],
    ["Align left edges", "of the chosen slips", () => align(chosenSlips(), "left")],
    ["Align tops", "of the chosen slips", () => align(chosenSlips(), "top")],
    ["Space evenly", "the chosen slips, downwards", () => align(chosenSlips(), "even")],
    ["As the skin", "colour the strands as what they grow on", async () => tell(await colorAsTheSkin(catalogue))],
    ["Undo", "Ctrl Z", () => history.getState().undo()],
    ["Redo", "Ctrl Shift Z", () => history.getState().redo()],
    ["Go to the bench", "place", () => onGo("bench")],
    ["Go to the stage", "place", () => onGo("stage")],
    ["Go to the trials", "place", () => onGo("trials")],
    ["Go to the library", "place", () => onGo("library")],
    ["Go to the pictures", "place", () => onGo("pictures")],
    ["Other theme", "paper and night", turnTheme],
    ["Shortcuts", "?", () => showShortcuts(true)],
  ];

  useHotkeys("/", () => find(), { ...ON_DIALS, preventDefault: true, useKey: true });
  useHotkeys("?", () => showShortcuts(true), { ...ON_DIALS, useKey: true });
  useHotkeys("m", group, ON_DIALS);
  useHotkeys("o", openChosen, ON_DIALS);
  useHotkeys("escape", closeUnlessCovered, ON_DIALS);
  useHotkeys("k", keep, ON_DIALS);
  useHotkeys("j", () => makeFinal(aspect), ON_DIALS);
  useHotkeys("g", turnSmoothing, ON_DIALS);
  useHotkeys("v", () => turnDisplay(catalogue.views), ON_DIALS);
  useHotkeys("t", turnStops, ON_DIALS);
  useHotkeys("y", turnApart, ON_DIALS);
  useHotkeys("w", () => fill((old) => !old), ON_DIALS);
  useHotkeys("h", hold, ON_DIALS);
  useHotkeys("b", bracketDial, ON_DIALS);
  useHotkeys("mod+c", () => copySlips(), ON_DIALS);
  useHotkeys("mod+v", () => paste(catalogue), ON_DIALS);
  useHotkeys(",", () => step(-1), { ...ON_DIALS, useKey: true, delimiter: "|" });
  useHotkeys(".", () => step(1), { ...ON_DIALS, useKey: true });
  useHotkeys("\\", flip, { ...ON_DIALS, useKey: true });
  useHotkeys("[", () => expose(-0.5), { ...ON_DIALS, useKey: true });
  useHotkeys("]", () => expose(0.5), { ...ON_DIALS, useKey: true });
  useHotkeys("mod+z", () => history.getState().undo(), ON_CHOICES);
  useHotkeys(["mod+shift+z", "mod+y"], () => history.getState().redo(), ON_CHOICES);
  useHotkeys("mod+s", () => save(), { preventDefault: true, enableOnFormTags: true });
  useHotkeys("mod+d", duplicateChosen, { ...ON_DIALS, preventDefault: true });
  useHotkeys("mod+a", chooseAll, { ...ON_DIALS, preventDefault: true });

  if (!ready) return null;
  const wiped = laidOver === "wipe" ? proofs.find((one) => one.number === chosen) : undefined;
  const shown = flipped ? proofs.find((one) => one.number === chosen) : undefined;
  const said = comments.filter((one) => one.proof_id === shown?.id);
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
        onHelp={() => showShortcuts(true)}
        onPlace={() => find()}
      />
      <Group
        orientation="horizontal"
        className="min-h-0 grow"
        groupRef={panes}
        onLayoutChanged={(layout, { isUserInteraction }) => isUserInteraction && keepPanes(arrangement, layout)}
      >
        <Panel id="pane-picture" defaultSize="34%" minSize="300px" className="flex flex-col">
          <Picture
            ref={canvas}
            aspect={aspect}
            besides={fills ? BESIDES_FILLED : BESIDES}
            proof={shown}
            onAsk={(what, x, y) => live.current?.ask(what, x, y)}
            onPart={makePart}
            onRoom={takeRoom}
          >
            <BracketView
              onBracket={(...about) => live.current?.bracket(...about)}
              onLeave={() => live.current?.leaveBracket()}
            />
            {shown && <Pins comments={said} />}
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
          <Facts onSmoothing={turnSmoothing} />
          <Looks
            settings={settings}
            onSettings={onSettings}
            fills={fills}
            onFill={() => fill((old) => !old)}
            onStops={turnStops}
            onApart={turnApart}
            onWhole={() => makePart()}
          />
          <Readout />
          <Proofs
            proofs={proofs}
            spokenOf={new Set(comments.map((one) => one.number))}
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
          {!fills &&
            (shown ? (
              <Comments
                key={shown.id}
                proof={shown}
                comments={said}
                mayComment={material.may !== "look"}
                isMine={material.may === "own"}
              />
            ) : (
              <Gauges />
            ))}
        </Panel>
        <Separator className="w-1 bg-[var(--mat-line)]" />
        {where === "stage" && (
          <Panel minSize="500px">
            <StagePlace materials={materials} />
          </Panel>
        )}
        {where === "trials" && (
          <Panel minSize="500px">
            <TrialsPlace
              id={material.id}
              materials={materials}
              proofs={proofs}
              live={() => live.current}
              onBench={() => onGo("bench")}
              onOpen={onOpen}
            />
          </Panel>
        )}
        {where === "library" && (
          <Panel minSize="500px">
            <Library
              onBench={() => onGo("bench")}
              onStage={() => onGo("stage")}
              onOpen={(id) => {
                onOpen(id);
                onGo("bench", id);
              }}
              onPlace={(kept) => {
                placeFromLibrary(catalogue, kept);
                onGo("bench");
              }}
            />
          </Panel>
        )}
        {where === "pictures" && (
          <Panel minSize="500px">
            <PicturesPlace aspect={aspect} />
          </Panel>
        )}
        {where === "bench" && (
          <>
            <Panel id="pane-network" defaultSize="44%" minSize="200px" collapsible collapsedSize="0%">
              <div ref={desk} className="h-full">
                <ReactFlowProvider>
                  <Network
                    onReady={(made) => {
                      flow.current = made;
                    }}
                  />
                </ReactFlowProvider>
              </div>
            </Panel>
            <Separator className="w-1 bg-[var(--mat-line)]" />
            <Panel id="pane-section" defaultSize="22%" minSize="220px">
              {openedModule ? <ModuleFace module={openedModule} /> : <Section />}
            </Panel>
          </>
        )}
      </Group>
      <Notes />
      <Told />
      {finding && <FindSheet commands={commands} />}
      {shortcuts && <Shortcuts onClose={() => showShortcuts(false)} />}
      <ConflictSheet onCopy={onOpen} />
      {starting && (
        <StartSheet
          onClose={() => setStarting(false)}
          onPlain={() => make(false)}
          onStart={async (from) => {
            const made = await copyOfMaterial(from);
            if (made) onOpen(made);
          }}
        />
      )}
    </div>
  );
}
