/** The connection to the live picture. */
import { create } from "zustand";
import type {
  Asked,
  Bracketed,
  Fault,
  Followed,
  Frame,
  HeldAbout,
  KeptTrial,
  Material,
  Picked,
  Preparing,
  Proof,
  Reading,
  Said,
  Settings,
  Stage,
} from "../api/client";
import { readAnew } from "../api/queries";
import { openModule } from "../network/paper";
import type { Part } from "../picture/part";
import { wearWhereDropped } from "../stage/wearing";
import { hearTried, leaveRun, type Run } from "../trials/run";
import type { DialSpot } from "../ui/pointed";
import { tell } from "../ui/told";
import { changeStage, useDocuments } from "./documents";

/** A slip held up: its picture on the form and the range over it. */
export type Held = HeldAbout & { url: string };

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
  /** Kernels that are still being compiled, and whether this picture waits for one. */
  preparing?: Preparing;
  /** Whether the picture is freed of noise while it settles. */
  smoothed: boolean;
  /** Whether stops from mid grey are shown in place of the picture. */
  stops: boolean;
  /** Whether lights are kept apart, to be turned without making the picture again. */
  apart: boolean;
  /** The part of the picture that alone is made. */
  part?: Part;
  /** Who else is at this material, and its newest revision. */
  here?: { others: string[]; revision: number; last_said: string };
  /** Why the connection was closed for good. */
  why?: string;
}

export const useLive = create<Live>()(() => ({
  state: "connecting",
  faults: [],
  sent: 0,
  smoothed: true,
  stops: false,
  apart: false,
}));

interface Documents {
  material: Material;
  stage: Stage;
  inside: string[];
}

/** What can be asked of a place of the picture: its light, the way of that light, or to be made sharp. */
export type Question = "pick" | "follow" | "focus" | "whose";

function focusAt(focus: number | null): void {
  if (focus === null) return;
  changeStage((stage) => ({ ...stage, camera: { ...stage.camera, dials: { ...stage.camera.dials, focus } } }));
}

const ANSWER_WITHIN_MS = 400;

/** Codes of a closed connection after which it makes no sense to try again. */
const FOR_GOOD: Record<number, string> = {
  4404: "This material is not yours or no longer shared with you, or it is gone.",
  4401: "You have signed out. Sign in again to go on; nothing was lost.",
  4400: "The server did not understand this page. Reload it; your work is kept in this browser.",
  4413: "The document is too large to be shown. Undo the last change; your work is kept in this browser.",
};

const ASKED_AGAIN = "The server is away; the proof is asked for again as soon as it is back.";
const HIDDEN_FOR_MS = 5000;

/** Settings without what the picture does not hang on. */
const ofPicture = ({ theme: _, ...settings }: Settings): Settings => settings as Settings;

interface Wish {
  type: "keep" | "keep_trial";
  resolve: (kept: Proof | KeptTrial) => void;
  reject: (why: Error) => void;
}

/** Draws frames on a canvas and sends changes; the newest wins, and one is under way at a time. */
export class LivePicture {
  private socket?: WebSocket;
  private sent = 0;
  private answered = 0;
  private sentAt = 0;
  private timer?: ReturnType<typeof setTimeout>;
  private waiting = true;
  private later: Asked[] = [];
  private closed = false;
  private holding?: string;
  private pause = 250;
  private room?: [number, number];
  private drawing: Promise<void> = Promise.resolve();
  private wishes = new Map<string, Wish>();
  private settings: Settings;
  private leaving?: ReturnType<typeof setTimeout>;
  private unwatch = new AbortController();
  private stop: () => void;

  constructor(
    private material: string,
    private canvas: HTMLCanvasElement,
    settings: Settings,
  ) {
    this.settings = ofPicture(settings);
    this.watchPage();
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
    useLive.setState({ part: undefined, apart: false, here: undefined });
    this.stop();
    this.unwatch.abort();
    clearTimeout(this.timer);
    clearTimeout(this.leaving);
    this.socket?.close();
    for (const request of [...this.wishes.keys()]) this.disappoint(request, "the bench was left");
  }

  /** The picture begins anew where what it hangs on has changed. */
  takeSettings(settings: Settings): void {
    const now = ofPicture(settings);
    if (JSON.stringify(now) === JSON.stringify(this.settings)) return;
    this.settings = now;
    this.changed();
  }

  /** A page that nobody sees has its bench rest, and go on where it was; one that is left is closed until it is shown again. */
  private watchPage(): void {
    const { signal } = this.unwatch;
    const seen = () => {
      clearTimeout(this.leaving);
      if (document.hidden) this.leaving = setTimeout(() => this.beUnseen(true), HIDDEN_FOR_MS);
      else this.beUnseen(false);
    };
    document.addEventListener("visibilitychange", seen, { signal });
    document.addEventListener("freeze", () => this.beUnseen(true), { signal });
    window.addEventListener("pagehide", () => this.socket?.close(), { signal });
  }

  private beUnseen(unseen: boolean): void {
    this.say({ type: "unseen", unseen });
  }

  /** Ask for a proof of the picture as it is. */
  keep(): Promise<Proof> {
    return this.wish("keep") as Promise<Proof>;
  }

  /** Ask for the trial under way, or the last one, to be kept. */
  keepTrial(): Promise<KeptTrial> {
    return this.wish("keep_trial") as Promise<KeptTrial>;
  }

  private wish(type: "keep" | "keep_trial"): Promise<Proof | KeptTrial> {
    const request = crypto.randomUUID();
    return new Promise((resolve, reject) => {
      this.wishes.set(request, { type, resolve, reject });
      if (this.say({ type, request })) return;
      if (type === "keep" && useLive.getState().state !== "refused") tell(ASKED_AGAIN);
      else this.disappoint(request, "the connection is lost");
    });
  }

  /** Make a trial of what is on the bench; one that is under way is left. */
  trial({ run, name, across, down, before }: Run): void {
    this.sayAfterChange({ type: "trial", run, name, across: { ...across }, down: down && { ...down }, before });
  }

  leaveTrial(): void {
    leaveRun();
    this.sayAfterChange({ type: "trial", run: "", name: "left", across: null, down: null, before: null });
  }

  /** Smooth the picture while it settles, or show it as rendered. */
  turnSmoothing(): void {
    useLive.setState(({ smoothed }) => ({ smoothed: !smoothed }));
    this.sayLook();
  }

  /** Show stops from mid grey, or the picture. */
  turnStops(): void {
    useLive.setState(({ stops }) => ({ stops: !stops }));
    this.sayLook();
  }

  private sayLook(): void {
    const { smoothed, stops } = useLive.getState();
    this.say({ type: "look", smoothed, stops });
  }

  /** Keep the lights apart, so that they can be turned without making the picture again; or no longer. */
  turnApart(): void {
    useLive.setState(({ apart }) => ({ apart: !apart }));
    this.changed();
  }

  /** Make a part of the picture alone, or the whole again. */
  makePart(part?: Part): void {
    if (part === useLive.getState().part) return;
    useLive.setState({ part });
    this.changed();
  }

  /** Say how many pixels of the screen the picture may take. */
  setRoom(width: number, height: number): void {
    const room: [number, number] = [Math.max(Math.round(width), 16), Math.max(Math.round(height), 16)];
    if (this.room?.[0] === room[0] && this.room[1] === room[1]) return;
    const needed = this.settings.pixels !== "fitted" && this.room;
    this.room = room;
    if (needed) this.changed();
  }

  /** Read the light at a place of the picture, or follow it; 0 to 1 from the left and from the top. */
  ask(type: Question, x: number, y: number): void {
    this.sayAfterChange({ type, x, y });
  }

  /** Hold a slip up on the form, or put it down. */
  hold(slip?: string): void {
    this.holding = slip;
    if (!slip) useLive.setState({ held: undefined });
    else this.sayAfterChange({ type: "hold", slip });
  }

  /** Ask for the strip across a dial; `walk` holds the values chosen before. */
  bracket(spot: DialSpot, values: number[], walk: number[]): void {
    const pictures = values.map(() => undefined);
    useLive.setState({ bracket: { spot, values, walk, pictures, noise: [], readable: false } });
    const module = openModule()?.id ?? "";
    this.sayAfterChange({ type: "bracket", module, part: spot.of, dial: spot.about.name, values });
  }

  leaveBracket(): void {
    const left = useLive.getState().bracket;
    useLive.setState({ bracket: undefined });
    const none = { module: "", values: [] };
    if (left) this.sayAfterChange({ type: "bracket", part: left.spot.of, dial: left.spot.about.name, ...none });
  }

  /** Ask something of the documents as they are here: after the change of them that is still to be sent. */
  private sayAfterChange(message: Asked): void {
    if (this.waiting) this.later.push(message);
    else this.say(message);
  }

  private say(message: Asked): boolean {
    if (this.socket?.readyState !== WebSocket.OPEN) return false;
    this.socket.send(JSON.stringify(message));
    return true;
  }

  private fulfil(request: string, kept: Proof | KeptTrial): void {
    this.wishes.get(request)?.resolve(kept);
    this.wishes.delete(request);
  }

  private disappoint(request: string, why: string): void {
    this.wishes.get(request)?.reject(new Error(why));
    this.wishes.delete(request);
  }

  changed(): void {
    useLive.setState({ picked: undefined, followed: undefined, bracket: undefined });
    leaveRun();
    this.waiting = true;
    this.later = [];
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
      const { smoothed, stops } = useLive.getState();
      if (!smoothed || stops) this.sayLook();
      if (document.hidden) this.beUnseen(true);
      this.changed();
      for (const [request, { type }] of this.wishes) this.say({ type, request });
    };
    socket.onmessage = (event) => this.hear(event.data as ArrayBuffer);
    socket.onclose = (event) => {
      const endsForGood = event.code in FOR_GOOD;
      for (const [request, { type }] of [...this.wishes])
        if (type === "keep_trial" || endsForGood) this.disappoint(request, "the connection was lost");
      leaveRun();
      if (this.closed) return;
      if (this.wishes.size) tell(ASKED_AGAIN);
      if (endsForGood) {
        useLive.setState({ state: "refused", why: FOR_GOOD[event.code] });
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
    const { part, apart } = useLive.getState();
    const seen = { inside: inside.join("/"), room: this.room ?? null, part: part ?? null, apart };
    this.say({ type: "show", sequence: this.sent, material, stage, settings: this.settings, ...seen });
    for (const message of this.later.splice(0)) this.say(message);
  }

  private hear(data: ArrayBuffer): void {
    const size = new DataView(data).getUint32(0);
    const said: Said = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 4, size)));
    const bytes = new Uint8Array(data, 4 + size);
    switch (said.type) {
      case "frame":
        this.answer(said.sequence);
        // One that cannot be drawn is left out; those after it are drawn.
        this.drawing = this.drawing.then(() => this.draw(said, bytes)).catch(() => this.shown());
        break;
      case "reading":
        useLive.setState({ reading: said, faults: [] });
        break;
      case "picked":
        useLive.setState({ picked: said, followed: undefined });
        break;
      case "followed":
        useLive.setState({ followed: said, picked: undefined });
        break;
      case "focused":
        focusAt(said.focus);
        break;
      case "whose":
        wearWhereDropped(said);
        break;
      case "held":
        this.showHeld(said, bytes);
        break;
      case "bracketed":
        this.showBracket(said, bytes);
        break;
      case "tried":
        hearTried(said, bytes);
        break;
      case "faults":
        this.answer(said.sequence);
        useLive.setState({ faults: said.faults });
        break;
      case "here":
        if (said.last_said !== useLive.getState().here?.last_said) readAnew(["comments"]);
        useLive.setState({ here: said });
        break;
      case "kept":
        this.fulfil(said.request, said.proof as Proof);
        break;
      case "trial_kept":
        this.fulfil(said.request, said.trial as KeptTrial);
        break;
      case "not_kept":
        this.disappoint(said.request, said.says);
        break;
      case "preparing":
        if (said.waits) this.answer(said.sequence);
        useLive.setState({ preparing: said.done < said.of ? said : undefined });
        break;
      case "restarted":
        leaveRun();
        useLive.setState({ state: "restarted" });
    }
  }

  private showHeld(header: HeldAbout, bytes: Uint8Array<ArrayBuffer>): void {
    if (header.slip !== this.holding) return;
    const old = useLive.getState().held?.url;
    useLive.setState({ held: { ...header, url: URL.createObjectURL(new Blob([bytes], { type: header.mime })) } });
    if (old) URL.revokeObjectURL(old);
  }

  private showBracket(header: Bracketed, bytes: Uint8Array<ArrayBuffer>): void {
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

  private shown(): void {
    this.say({ type: "shown" });
  }

  /** A canvas is emptied when its size is set. */
  private takeSize(width: number, height: number): void {
    if (this.canvas.width !== width) this.canvas.width = width;
    if (this.canvas.height !== height) this.canvas.height = height;
  }

  private async draw(frame: Frame, bytes: Uint8Array<ArrayBuffer>): Promise<void> {
    const picture = await createImageBitmap(new Blob([bytes], { type: frame.mime }));
    const context = this.canvas.getContext("2d");
    if (context) {
      if (!frame.part && !frame.coarse) this.takeSize(frame.width, frame.height);
      context.imageSmoothingQuality = "high";
      const { width, height } = this.canvas;
      const [left, top, right, bottom] = frame.part ?? [0, 0, 1, 1];
      context.drawImage(picture, left * width, top * height, (right - left) * width, (bottom - top) * height);
    }
    picture.close();
    Object.assign(this.canvas.dataset, {
      sequence: frame.sequence,
      samples: frame.samples,
      coarse: frame.coarse,
      settled: frame.settled,
    });
    useLive.setState(({ preparing }) => ({
      frame,
      state: "live",
      preparing: preparing && { ...preparing, waits: false },
    }));
    this.shown();
    if (this.holding && frame.coarse) this.say({ type: "hold", slip: this.holding });
  }
}
