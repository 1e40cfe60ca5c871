import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];
export type Material = Schemas["Material"];
export type Slip = Schemas["Slip"];
export type Band = Schemas["Band"];
export type Mount = Schemas["Mount"];
export type Module = Schemas["Module"];
/** Slips, wires and mounts: of a material, or of a module. */
export type Network = Pick<Module, "slips" | "wires" | "mounts">;
export type ModuleFile = Schemas["ModuleFile"];
export type KeptModule = Schemas["KeptModuleOut"];
export type Wire = Schemas["Wire"];
export type Stage = Schemas["Stage"];
export type Settings = Schemas["Settings"];
export type Kind = Schemas["KindOut"];
export type DialAbout = Omit<Schemas["Dial"], "default"> & { default: DialValue };
export type PortType = Schemas["Port"]["type"];
export type Catalogue = Schemas["CatalogueOut"];
export type MaterialOut = Schemas["MaterialOut"];
export type StageOut = Schemas["StageOut"];
export type Standing = Schemas["StandingOut"];
export type Conflict = Schemas["Conflict"];
export type StageConflict = Schemas["StageConflict"];
export type Proof = Schemas["ProofOut"];
export type StageObject = Schemas["Object"];
export type Lamp = Schemas["Lamp"];
export type StagePart = Schemas["Part"];
export type Seen = Schemas["Seen"];
export type Substance = Schemas["Substance"];
export type Scatterer = Schemas["Scatterer"];
export type KeptFile = Schemas["KeptFileOut"];
export type CurveIn = Schemas["CurveIn"];
export type CurveToWrite = Schemas["CurveToWrite"];
export type LightRead = Schemas["LightRead"];
export type Share = Schemas["ShareOut"];
export type Comment = Schemas["CommentOut"];
export type Fault = Schemas["FaultOut"];

/** What is told of a grid of numbers in a file. */
export interface KeptGrid {
  name: string;
  size: number[];
  low: number;
  high: number;
  megabytes: number;
  drives: string;
}

export const gridsIn = (file: KeptFile) => (file.facts.grids ?? []) as KeptGrid[];

/** What the live picture's socket says, and what it is asked. */
export type Frame = Schemas["Frame"] & { sequence: number };
export type Note = Schemas["Note"];
export type Change = Schemas["Change"];
export type SlipPicture = Schemas["SlipPicture"];
export type BandCut = Schemas["BandCut"];
export type Polar = Schemas["Polar"];
export type StrandPlot = Schemas["StrandPlot"];
export type Strips = Schemas["Strips"];
export type Lengths = Schemas["Lengths"];
export type Rungs = Schemas["Rungs"];
export type Curves = Schemas["Curves"];
export type Reading = Schemas["Reading"];
export type Plan = Schemas["Plan"];
export type Picked = Schemas["Picked"];
export type RayStep = Schemas["RayStep"];
export type Followed = Schemas["Followed"];
export type HeldAbout = Schemas["Held"];
export type Bracketed = Schemas["Bracketed"];
export type Tried = Schemas["Tried"];
export type DialAxis = Schemas["DialAxis"];
export type StagesAxis = Schemas["StagesAxis"];
export type StandsUpAxis = Schemas["StandsUpAxis"];
export type Final = Schemas["Final"];
export type FinalPicture = Schemas["FinalOut"];
export type FrameOut = Schemas["FrameOut"];
export type Motion = Schemas["Motion"];
export type TurnMove = Schemas["TurnMove"];
export type DialMove = Schemas["DialMove"];
export type Finish = Schemas["Finish"];
export type Trial = Schemas["Trial"];
export type FinishStep = Schemas["FinishStep"];
export type KeptFinish = Schemas["FinishOut"];
export type FinishConflict = Schemas["FinishConflict"];
export type HandOver = Schemas["HandedOut"];
export type Formats = Schemas["FormatsOut"];
export type ReportOf = Schemas["Report"];
export type TakenIn = Schemas["TakenInOut"];
export type Scan = Schemas["ScanOut"];
export type Compared = Schemas["ComparedOut"];
export type StageLine = Schemas["StageLine"];
export type MaterialLine = Schemas["MaterialLine"];
export type Whose = Schemas["Whose"];
export type KeptTrial = Schemas["TrialOut"];
export type Difference = Schemas["DifferenceOut"];
export type MaterialsAxis = Schemas["MaterialsAxis"];
export type KeptPreset = Schemas["PresetOut"];
export type KeptSwatch = Schemas["SwatchKept"];
export type Solved = Schemas["SolvedOut"];
export type Ready = Schemas["ReadyOut"];
export type Preparing = Schemas["Preparing"];
type Numbered<Message> = Message & { sequence: number };
export type Said = Numbered<
  | Schemas["Frame"]
  | Reading
  | Picked
  | Followed
  | Schemas["Focused"]
  | Whose
  | HeldAbout
  | Bracketed
  | Tried
  | Schemas["FaultsFound"]
  | Schemas["ProofKept"]
  | Schemas["TrialKept"]
  | Schemas["Here"]
  | Schemas["NotKept"]
  | Schemas["Restarted"]
  | Preparing
>;
export type Asked =
  | Schemas["Show"]
  | Schemas["Shown"]
  | Schemas["Keep"]
  | Schemas["Look"]
  | Schemas["Unseen"]
  | Schemas["AtPlace"]
  | Schemas["Hold"]
  | Schemas["BracketAsked"]
  | Schemas["TrialAsked"]
  | Schemas["KeepTrial"];

export type Rgb = [number, number, number];
export type NumberStop = [number, number];
export type ColorStop = [number, Rgb];
export type Stop = NumberStop | ColorStop;
export type DialValue = number | boolean | string | number[] | Stop[];

function cookie(name: string): string {
  return document.cookie.match(`(?:^|; )${name}=([^;]*)`)?.[1] ?? "";
}

export const api = createClient<paths>({ baseUrl: "/" });
api.use({
  onRequest({ request }) {
    request.headers.set("X-CSRFToken", cookie("csrftoken"));
    return request;
  },
  onResponse({ response }) {
    if (response.status === 401) window.location.assign("/sign-in/");
  },
});

/** What a refused request says, in words. */
export function wordsOf(error: unknown): string {
  const faults = (error as { faults?: Fault[] } | undefined)?.faults;
  if (faults?.length) return faults.map((f) => `${f.path}: ${f.fault}; allowed: ${f.allowed}`).join("\n");
  return "The server did not take it. Nothing was lost; try again.";
}
