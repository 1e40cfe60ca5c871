/** The connection to the live picture. */
import { create } from "zustand";
import type { Fault, Material, Proof, Settings, Stage } from "../api/client";
import { openModule } from "../network/paper";
import type { DialSpot } from "../ui/pointed";
import { changeStage, useDocuments } from "./documents";

export interface Frame {
  sequence: number;
  samples: number;
  noise: number | null;
  seconds: number;
  side: number;
  coarse: boolean;
  settled: boolean;
  mime: string;
}

export interface Change {
  part: string;
  dial: string;
  value: unknown;
}

/** A slip to be put on the wire that ends at a dial. */
interface PutOnWire {
  part: string;
  dial: string;
  slip: string;
  dials: Record<string, number>;
}

export interface Note {
  rule: string;
  says: string;
  figure: number;
  part: string;
  dial: string;
  remedy: string;
  changes: (Change | PutOnWire)[];
}

export interface SlipPicture {
  draws: "curve" | "strip" | "patch" | "value";
  values?: number[];
  colors?: string[];
  png?: string;
  low: number;
  high: number;
}

/** What a band of the section is drawn from. */
export interface BandCut {
  colors: string[];
  roughness: number;
  says: string;
}

/** Rows of colour over one quantity. */
export interface Strips {
  x: { label: string; unit: string; low: number; high: number };
  rows: { label: string; hex: string[] }[];
  mark: number;
  caption: string;
  varies: boolean;
}

/** A slip held up: its picture on the form and the range over it. */
export interface Held {
  slip: string;
  url: string;
  low: number;
  high: number;
  below: number;
  above: number;
  /** What counts as within range. */
  least: number;
  most: number;
}

/** The strip of pictures across a dial's range, and how it was narrowed before. */
export interface BracketState {
  spot: DialSpot;
  values: number[];
  pictures: (string | undefined)[];
  walk: number[];
  /** The noise left in each picture, as a share of its brightness. */
  noise: (number | undefined)[];
  /** Whether all can be judged; they go on getting better. */
  readable: boolean;
}

export interface Lengths {
  low_cm: number;
  middle_cm: number;
  high_cm: number;
  edges_cm: number[];
  counts: number[];
}

export interface Rungs {
  lengths_cm: number[];
  hex: string[];
  depth_cm: number;
  varies: boolean;
  measured: Lengths | null;
}

export interface Curves {
  x: { label: string; unit: string; values: number[] };
  y: { label: string; low: number; high: number };
  curves: { label: string; values: number[] }[];
  marks: { x: number; label: string }[];
  caption: string;
  varies: boolean;
}

/** A gauge with its description; the plot says how it is drawn. */
export type GaugeReading = { name: string; title: string; help: string } & (
  | { plot: "rungs"; computed: Rungs }
  | { plot: "strips"; computed: Strips }
  | { plot: "curves"; computed: Curves }
);

export interface Reading {
  sequence: number;
  gauges: GaugeReading[];
  notes: Note[];
  /** The use of a module whose slips `slips` are about. */
  inside: string;
  slips: Record<string, SlipPicture>;
  driven: Record<string, { low: number; high: number }>;
  section: { depth_cm: number; cut: string[]; bands: Record<string, BandCut> };
  plan: Plan | null;
}

/** The stage from above and from the front, in cm about its middle. */
export interface Plan {
  outlines: { object: string; part: string; above: [number, number][]; front: [number, number][] }[];
  floor_cm: number;
  size_cm: number;
  strips: { light: string; camera: string };
}

/** What one place of the picture holds. */
export interface Picked {
  x: number;
  y: number;
  linear: number[];
  luminance: number;
  display: string;
  over: boolean[];
  wavelengths_nm: number[];
  spectrum: number[];
  seen: string;
}

export interface RayStep {
  length_cm: number;
  medium: string;
  object: string;
  event: string;
  angle_deg: number | null;
  angle_beyond_deg: number | null;
  index_before: number;
  left: number;
}

/** The way of light through one place of the picture, at several wavelengths when it disperses. */
export interface Followed {
  x: number;
  y: number;
  rays: { wavelength_nm: number; left: number; steps: RayStep[]; drawn: ([number, number] | null)[] }[];
}

interface Live {
  state: "connecting" | "live" | "restarted" | "lost" | "refused";
  frame?: Frame;
  reading?: Reading;
  faults: Fault[];
  sent: number;
  picked?: Picked;
  followed?: Followed;
  held?: Held;
  bracket?: BracketState;
}

export const useLive = create<Live>()(() => ({ state: "connecting", faults: [], sent: 0 }));

interface Documents {
  material: Material;
  stage: Stage;
  inside: string[];
}

/** What can be asked of a place of the picture: its light, the way of that light, or to be made sharp. */
export type Asked = "pick" | "follow" | "focus";

function focusAt(focus: number | null): void {
  if (focus === null) return;
  changeStage((stage) => ({ ...stage, camera: { ...stage.camera, dials: { ...stage.camera.dials, focus } } }));
}

const ANSWER_WITHIN_MS = 400;
const NOT_YOURS = 4404;

/** Draws frames on a canvas and sends changes; the newest wins, and one is under way at a time. */
export class LivePicture {
  private socket?: WebSocket;
  private sent = 0;
  private answered = 0;
  private sentAt = 0;
  private timer?: ReturnType<typeof setTimeout>;
  private waiting = true;
  private closed = false;
  private holding?: string;
  private pause = 250;
  private drawing: Promise<void> = Promise.resolve();
  private wishes = new Map<string, (proof: Proof) => void>();
  private stop: () => void;

  constructor(
    private material: string,
    private canvas: HTMLCanvasElement,
    private settings: Settings,
  ) {
    let last: Documents = useDocuments.getState();
    this.stop = useDocuments.subscribe((now) => {
      if (now.material === last.material && now.stage === last.stage && now.inside === last.inside) return;
      last = now;
      this.changed();
    });
    this.connect();
  }

  close(): void {
    this.closed = true;
    this.stop();
    clearTimeout(this.timer);
    this.socket?.close();
  }

  /** Ask for a proof of the picture as it is. */
  keep(): Promise<Proof> {
    const request = crypto.randomUUID();
    this.socket?.send(JSON.stringify({ type: "keep", request }));
    return new Promise((resolve) => this.wishes.set(request, resolve));
  }

  /** Read the light at a place of the picture, or follow it; 0 to 1 from the left and from the top. */
  ask(type: Asked, x: number, y: number): void {
    this.say({ type, x, y });
  }

  /** Hold a slip up on the form, or put it down. */
  hold(slip?: string): void {
    this.holding = slip;
    if (!slip) useLive.setState({ held: undefined });
    else this.say({ type: "hold", slip });
  }

  /** Ask for the strip across a dial; `walk` holds the values chosen before. */
  bracket(spot: DialSpot, values: number[], walk: number[]): void {
    const pictures = values.map(() => undefined);
    useLive.setState({ bracket: { spot, values, walk, pictures, noise: [], readable: false } });
    const module = openModule()?.id ?? "";
    this.say({ type: "bracket", module, part: spot.of, dial: spot.about.name, values });
  }

  leaveBracket(): void {
    const left = useLive.getState().bracket;
    useLive.setState({ bracket: undefined });
    if (left) this.say({ type: "bracket", module: "", part: left.spot.of, dial: left.spot.about.name, values: [] });
  }

  private say(message: object): void {
    this.socket?.readyState === WebSocket.OPEN && this.socket.send(JSON.stringify(message));
  }

  changed(): void {
    useLive.setState({ picked: undefined, followed: undefined, bracket: undefined });
    this.waiting = true;
    this.sendWhenFree();
  }

  private connect(): void {
    const scheme = window.location.protocol === "https:" ? "wss" : "ws";
    const socket = new WebSocket(`${scheme}://${window.location.host}/live/${this.material}/`);
    socket.binaryType = "arraybuffer";
    socket.onopen = () => {
      this.pause = 250;
      this.answered = this.sent;
      useLive.setState({ state: "live" });
      this.changed();
    };
    socket.onmessage = (event) => this.hear(event.data as ArrayBuffer);
    socket.onclose = (event) => {
      if (this.closed) return;
      if (event.code === NOT_YOURS) {
        useLive.setState({ state: "refused" });
        return;
      }
      useLive.setState({ state: "lost" });
      setTimeout(() => !this.closed && this.connect(), this.pause);
      this.pause = Math.min(this.pause * 2, 4000);
    };
    this.socket = socket;
  }

  private sendWhenFree(): void {
    clearTimeout(this.timer);
    if (!this.waiting || this.socket?.readyState !== WebSocket.OPEN) return;
    const rest = this.answered < this.sent ? this.sentAt + ANSWER_WITHIN_MS - performance.now() : 0;
    if (rest > 0) {
      this.timer = setTimeout(() => this.sendWhenFree(), rest);
      return;
    }
    const { material, stage, inside } = useDocuments.getState();
    this.waiting = false;
    this.sent += 1;
    this.sentAt = performance.now();
    useLive.setState({ sent: this.sent });
    const opened = { inside: inside.join("/") };
    const shown = { type: "show", sequence: this.sent, material, stage, settings: this.settings, ...opened };
    this.socket.send(JSON.stringify(shown));
  }

  private hear(data: ArrayBuffer): void {
    const size = new DataView(data).getUint32(0);
    const header = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 4, size)));
    if (header.type === "frame") {
      this.answer(header.sequence);
      const bytes = new Uint8Array(data, 4 + size);
      this.drawing = this.drawing.then(() => this.draw(header, bytes));
    } else if (header.type === "reading") useLive.setState({ reading: header, faults: [] });
    else if (header.type === "picked") useLive.setState({ picked: header, followed: undefined });
    else if (header.type === "followed") useLive.setState({ followed: header, picked: undefined });
    else if (header.type === "focused") focusAt(header.focus);
    else if (header.type === "held") this.showHeld(header, new Uint8Array(data, 4 + size));
    else if (header.type === "bracketed") this.showBracket(header, new Uint8Array(data, 4 + size));
    else if (header.type === "faults") {
      this.answer(header.sequence);
      useLive.setState({ faults: header.faults });
    } else if (header.type === "kept") {
      this.wishes.get(header.request)?.(header.proof);
      this.wishes.delete(header.request);
    } else if (header.type === "restarted") useLive.setState({ state: "restarted" });
  }

  private showHeld(header: Omit<Held, "url"> & { mime: string }, bytes: Uint8Array<ArrayBuffer>): void {
    if (header.slip !== this.holding) return;
    const old = useLive.getState().held?.url;
    useLive.setState({ held: { ...header, url: URL.createObjectURL(new Blob([bytes], { type: header.mime })) } });
    if (old) URL.revokeObjectURL(old);
  }

  private showBracket(
    header: { part: string; dial: string; place: number; value: number; noise: number; readable: boolean },
    bytes: Uint8Array<ArrayBuffer>,
  ): void {
    const url = URL.createObjectURL(new Blob([bytes], { type: "image/png" }));
    useLive.setState(({ bracket }) => {
      if (!bracket || bracket.values[header.place] !== header.value || bracket.spot.about.name !== header.dial)
        return {};
      const before = bracket.pictures[header.place];
      if (before) URL.revokeObjectURL(before);
      const pictures = bracket.pictures.map((one, i) => (i === header.place ? url : one));
      const noise = bracket.values.map((_, i) => (i === header.place ? header.noise : bracket.noise[i]));
      return { bracket: { ...bracket, pictures, noise, readable: header.readable } };
    });
  }

  private answer(sequence: number): void {
    this.answered = Math.max(this.answered, sequence);
    this.sendWhenFree();
  }

  private async draw(frame: Frame, bytes: Uint8Array<ArrayBuffer>): Promise<void> {
    const picture = await createImageBitmap(new Blob([bytes], { type: frame.mime }));
    const context = this.canvas.getContext("2d");
    if (context) {
      context.imageSmoothingQuality = "high";
      context.drawImage(picture, 0, 0, this.canvas.width, this.canvas.height);
    }
    picture.close();
    Object.assign(this.canvas.dataset, {
      sequence: frame.sequence,
      samples: frame.samples,
      coarse: frame.coarse,
      settled: frame.settled,
    });
    useLive.setState({ frame, state: "live" });
    this.say({ type: "shown" });
    if (this.holding && frame.coarse) this.say({ type: "hold", slip: this.holding });
  }
}
