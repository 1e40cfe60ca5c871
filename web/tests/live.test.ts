// @vitest-environment happy-dom
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { Settings } from "../src/api/client";
import { LivePicture, useLive } from "../src/bench/live";
import { changeMaterial } from "../src/bench/documents";
import type { DialSpot } from "../src/ui/pointed";
import { lay } from "./papers";

/** A socket whose other end is the test. */
class Socket {
  static readonly OPEN = 1;
  static all: Socket[] = [];
  readyState = 0;
  said: Record<string, unknown>[] = [];
  onopen?: () => void;
  onmessage?: (event: { data: ArrayBuffer }) => void;
  onclose?: (event: { code: number }) => void;

  constructor(readonly url: string) {
    Socket.all.push(this);
  }
  send(text: string) {
    this.said.push(JSON.parse(text));
  }
  close(code = 1000) {
    this.readyState = 3;
    this.onclose?.({ code });
  }
  open() {
    this.readyState = Socket.OPEN;
    this.onopen?.();
  }
  tell(header: object, bytes = new Uint8Array()) {
    const text = new TextEncoder().encode(JSON.stringify(header));
    const data = new Uint8Array(4 + text.length + bytes.length);
    new DataView(data.buffer).setUint32(0, text.length);
    data.set(text, 4);
    data.set(bytes, 4 + text.length);
    this.onmessage?.({ data: data.buffer });
  }
  shows() {
    return this.said.filter((one) => one.type === "show");
  }
}

const frame = (sequence: number, more: object = {}) => ({
  ...{ type: "frame", sequence, samples: 1, coarse: false, settled: false, width: 96, height: 64, mime: "image/png" },
  ...more,
});
const last = () => Socket.all[Socket.all.length - 1];
const spot = { of: "interface", about: { name: "roughness" } } as unknown as DialSpot;
let live: LivePicture;
let canvas: HTMLCanvasElement;

beforeEach(() => {
  vi.useFakeTimers();
  vi.stubGlobal("WebSocket", Socket);
  vi.stubGlobal("createImageBitmap", async () => ({ close: () => {} }));
  Socket.all = [];
  useLive.setState({ state: "connecting", frame: undefined, faults: [], bracket: undefined, smoothed: true, stops: false });
  lay();
  canvas = document.createElement("canvas");
  vi.spyOn(canvas, "getContext").mockReturnValue({ drawImage: () => {} } as never);
  live = new LivePicture("m1", canvas, {} as Settings);
});
afterEach(() => {
  live.close();
  vi.unstubAllGlobals();
});

const change = (name: string) => changeMaterial((m) => ({ ...m, name }));

test("once it is open what is on the bench is shown", () => {
  expect(last().url).toMatch(/\/live\/m1\/$/);
  expect(useLive.getState().state).toBe("connecting");
  last().open();
  expect(useLive.getState().state).toBe("live");
  expect(last().shows().map((one) => one.sequence)).toEqual([1]);
});

test("one change is under way at a time, and the newest wins", () => {
  last().open();
  for (const name of ["a", "b", "c"]) change(name);
  expect(last().shows(), "the others wait for the answer").toHaveLength(1);
  last().tell({ type: "faults", sequence: 1, faults: [] });
  expect(last().shows().map((one) => (one.material as { name: string }).name)).toEqual(["Glass", "c"]);
});

test("an answer that does not come is not waited for without end", () => {
  last().open();
  change("a");
  vi.advanceTimersByTime(1000);
  expect(last().shows()).toHaveLength(2);
});

test("what is asked comes after the change that it is about", () => {
  last().open();
  change("a");
  live.ask("pick", 0.5, 0.25);
  expect(last().said.map((one) => one.type)).toEqual(["show"]);
  last().tell({ type: "faults", sequence: 1, faults: [] });
  expect(last().said.map((one) => one.type)).toEqual(["show", "show", "pick"]);
});

test("a frame is drawn and acknowledged; a coarse one leaves the canvas its size", async () => {
  last().open();
  canvas.width = canvas.height = 480;
  last().tell(frame(1, { coarse: true }));
  await vi.advanceTimersByTimeAsync(0);
  expect([canvas.width, canvas.dataset.coarse]).toEqual([480, "true"]);
  last().tell(frame(1, { samples: 4 }));
  await vi.advanceTimersByTimeAsync(0);
  expect([canvas.width, canvas.height, canvas.dataset.samples]).toEqual([96, 64, "4"]);
  expect(last().said.filter((one) => one.type === "shown")).toHaveLength(2);
  expect(useLive.getState().frame?.samples).toBe(4);
});

test("a connection that is lost is tried again, with longer pauses, and shows the same", () => {
  last().open();
  last().close(1006);
  expect(useLive.getState().state).toBe("lost");
  vi.advanceTimersByTime(250);
  expect(Socket.all).toHaveLength(2);
  last().close(1006);
  vi.advanceTimersByTime(250);
  expect(Socket.all, "the second pause is twice as long").toHaveLength(2);
  vi.advanceTimersByTime(250);
  expect(Socket.all).toHaveLength(3);
  last().open();
  expect([useLive.getState().state, last().shows().length]).toEqual(["live", 1]);
});

test.each([4404, 4401, 4400, 4413])("code %i closes it for good, and says why", (code) => {
  last().open();
  last().close(code);
  vi.advanceTimersByTime(10_000);
  expect(Socket.all).toHaveLength(1);
  expect(useLive.getState().state).toBe("refused");
  expect(useLive.getState().why).toBeTruthy();
});

test("a wish for a proof is fulfilled, or told why not", async () => {
  last().open();
  const kept = live.keep();
  const { request } = last().said.find((one) => one.type === "keep") ?? {};
  last().tell({ type: "kept", request, proof: { id: "p1" } });
  expect(await kept).toEqual({ id: "p1" });
  const refused = live.keep();
  const wish = last().said.filter((one) => one.type === "keep")[1];
  last().tell({ type: "not_kept", request: wish.request, says: "there is no picture" });
  await expect(refused).rejects.toThrow("there is no picture");
});

test("a wish for a proof is made again when the connection is back, also one that was made meanwhile", async () => {
  last().open();
  const wishes = [live.keep()];
  last().close(1006);
  wishes.push(live.keep());
  vi.advanceTimersByTime(250);
  last().open();
  const asked = last().said.filter((one) => one.type === "keep");
  expect(asked).toHaveLength(2);
  for (const { request } of asked) last().tell({ type: "kept", request, proof: { id: request } });
  expect(await Promise.all(wishes)).toEqual(asked.map(({ request }) => ({ id: request })));
  const left = live.keep();
  last().close(4401);
  await expect(left, "closed for good").rejects.toThrow("the connection was lost");
});

test("a frame that cannot be drawn is left out, and those after it are drawn", async () => {
  last().open();
  vi.stubGlobal("createImageBitmap", () => Promise.reject(new Error("not a picture")));
  last().tell(frame(1, { samples: 2 }));
  await vi.advanceTimersByTimeAsync(0);
  vi.stubGlobal("createImageBitmap", async () => ({ close: () => {} }));
  last().tell(frame(1, { samples: 3 }));
  await vi.advanceTimersByTimeAsync(0);
  expect(canvas.dataset.samples).toBe("3");
  expect(last().said.filter((one) => one.type === "shown")).toHaveLength(2);
});

test("another theme keeps the connection and the picture; another size of it begins it anew", () => {
  last().open();
  last().tell(frame(1));
  live.takeSettings({ theme: "night" } as Settings);
  expect([Socket.all.length, last().shows().length]).toEqual([1, 1]);
  live.takeSettings({ theme: "night", picture_side: 96 } as Settings);
  expect([Socket.all.length, last().shows().length]).toEqual([1, 2]);
});

test("a page that nobody sees has its bench rest within ten seconds, and go on when it is seen", () => {
  const see = (hidden: boolean) => {
    vi.spyOn(document, "hidden", "get").mockReturnValue(hidden);
    document.dispatchEvent(new Event("visibilitychange"));
  };
  const said = () => last().said.filter((one) => one.type === "unseen").map((one) => one.unseen);
  last().open();
  see(true);
  vi.advanceTimersByTime(1000);
  expect(said(), "a glance at another tab").toEqual([]);
  vi.advanceTimersByTime(9000);
  expect(said()).toEqual([true]);
  see(false);
  expect(said()).toEqual([true, false]);
  window.dispatchEvent(new Event("pagehide"));
  expect(last().readyState, "left").toBe(3);
});

test("a renderer that is started again is told until the next picture", async () => {
  last().open();
  last().tell({ type: "restarted", sequence: 1 });
  expect(useLive.getState().state).toBe("restarted");
  last().tell(frame(1));
  await vi.advanceTimersByTimeAsync(0);
  expect(useLive.getState().state).toBe("live");
});

test("pictures of a bracket that was left, or is of other values, are not taken", () => {
  last().open();
  live.bracket(spot, [0.1, 0.2], []);
  const told = { type: "bracketed", sequence: 1, place: 1, dial: "roughness", noise: 0.1, readable: true };
  last().tell({ ...told, value: 0.9 });
  expect(useLive.getState().bracket?.pictures).toEqual([undefined, undefined]);
  last().tell({ ...told, value: 0.2 });
  expect(useLive.getState().bracket?.pictures[1]).toMatch(/^blob:/);
  change("something else");
  expect(useLive.getState().bracket, "a change ends it").toBeUndefined();
});

test("how the picture is looked at is said again to a new connection", () => {
  last().open();
  live.turnSmoothing();
  last().close(1006);
  vi.advanceTimersByTime(250);
  last().open();
  expect(last().said[0]).toEqual({ type: "look", smoothed: false, stops: false });
});

test("what stops it leaves nothing behind", () => {
  last().open();
  live.close();
  change("after");
  vi.advanceTimersByTime(10_000);
  expect(Socket.all).toHaveLength(1);
  expect(last().shows()).toHaveLength(1);
});
