"""The rendering process: many benches, one at a time, newest change first. Talks over its standard input and output."""

import contextlib
import json
import os
import sys
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field

from nineglass.catalogue import CAMERAS
from nineglass.describe import Refused
from nineglass.documents.model import Material, Network, Settings, Stage, read
from nineglass.gauges import Reading
from nineglass.gauges.bench import read_bench
from nineglass.picture.display import encoded, to_srgb8
from nineglass.trace.film import Film, length_facts
from nineglass.trace.follow import fan_of, on_picture, through_pixel
from nineglass.trace.hold_up import hold_up
from nineglass.trace.pick import focus_at, pick
from nineglass.trace.render import Interrupted, Tracer
from nineglass.trace.scene import Set, build_set, filled

from live.bracket import Bracket
from live.wire import LENGTHS, pack

COARSE_SHARE = 4
"""The first picture has a side this many times smaller."""

FRAMES_IN_FLIGHT = 3
JPEG_QUALITY = 88
READ_AGAIN_AT = (2, 16)
"""Samples at which the path lengths are measured well enough to read the gauges again."""

ASKED = ("pick", "follow", "focus", "hold", "bracket")


@dataclass
class Bench:
    """One open bench: what it shows, and how far its picture is."""

    session: str
    send: Callable[..., None]
    change: dict | None = None
    sequence: int = 0
    material: Material | None = None
    stage: Stage | None = None
    settings: Settings = field(default_factory=Settings)
    the_set: Set | None = None
    coarse: Film | None = None
    film: Film | None = None
    samples: int = 0
    began: float = 0.0
    unacknowledged: int = 0
    settled: bool = False
    wanted_proofs: list[str] = field(default_factory=list)
    inside: str = ""
    """The use of a module that is open on the network, by `use/use within`."""
    bracket: Bracket | None = None
    asked: dict | None = None
    """A pick, a ray to follow, a slip to hold up ...; the newest wins."""

    @property
    def exposure(self) -> float:
        return self.the_set.exposure if self.the_set else 0.0

    def waiting(self) -> bool:
        """Whether there is anything to do."""
        if self.change is not None:
            return True
        busy = not self.settled or self.asked is not None or self.bracket is not None
        return self.the_set is not None and busy

    def take(self) -> None:
        """Take up the newest change; a change of exposure alone keeps the picture."""
        change, self.change = self.change, None
        self.bracket = None
        self.sequence = change["sequence"]
        try:
            material, stage = read(Material, change["material"]), read(Stage, change["stage"])
            settings = read(Settings, change["settings"])
        except Refused as refused:
            faults = [vars(fault) for fault in refused.faults]
            self.send(self, {"type": "faults", "faults": faults})
            return
        inside_before, self.inside = self.inside, change["inside"]
        same_light = self.stage and _without_exposure(stage) == _without_exposure(self.stage)
        same = same_light and _looks(material) == _looks(self.material) and settings == self.settings
        self.material, self.stage, self.settings = material, stage, settings
        the_set = build_set(material, stage)
        if same and self.film:
            self.the_set = the_set
            film = self.film if self.samples else self.coarse
            self.show(film, lossless=self.settled)
            if self.inside != inside_before:
                self.read_gauges(film)
            return
        side = settings.picture_side
        self.the_set = the_set
        self.film, self.coarse = Film(side, side), Film(side // COARSE_SHARE, side // COARSE_SHARE)
        self.samples, self.settled, self.began = 0, False, time.monotonic()

    def answer(self, tracer: Tracer) -> None:
        """Read one place of the picture, follow the ray that it shows, or say what would make it sharp."""
        asked, self.asked = self.asked, None
        if asked["type"] == "hold":
            self.hold(asked["slip"])
            return
        if asked["type"] == "bracket":
            self.begin_bracket(asked)
            return
        x, y = asked["x"], asked["y"]
        if asked["type"] == "pick":
            side, bounces = self.settings.picture_side, self.settings.most_bounces
            self.send(self, {"type": "picked", "x": x, "y": y, **pick(self.the_set, tracer, x, y, side, bounces)})
            return
        if asked["type"] == "focus":
            self.send(self, {"type": "focused", "focus": focus_at(self.the_set, x, y)})
            return
        rays = fan_of(self.the_set, *through_pixel(self.the_set, x, y))
        drawn = [{**ray.as_json(), "drawn": self._drawn(ray)} for ray in rays]
        self.send(self, {"type": "followed", "x": x, "y": y, "rays": drawn})

    def hold(self, slip: str) -> None:
        """Show what a slip gives on the form, unlit."""
        ports = [port for one, port in self.the_set.compiled.outputs if one == slip]
        if not ports:
            return
        held = hold_up(self.the_set, slip, self.settings.picture_side, ports[0])
        picture = held.picture(self.the_set.compiled.kinds[slip].gives[0].type == "vector")
        self.send(self, {"type": "held", "slip": slip, "mime": "image/png", **held.facts()}, encoded(picture, "PNG"))

    def begin_bracket(self, asked: dict) -> None:
        """Begin a strip, or leave the one under way when no values are asked for."""
        try:
            self.bracket = Bracket.of(self.material, self.stage, asked) if asked["values"] else None
        except Refused as refused:
            self.bracket = None
            self.send(self, {"type": "faults", "faults": [vars(fault) for fault in refused.faults]})

    def work_on_bracket(self, tracer: Tracer, pressed: Callable[[], bool]) -> None:
        """One round of one picture of the strip."""
        bracket = self.bracket
        k, linear = bracket.step(tracer, pressed, self.settings.most_bounces)
        picture = encoded(to_srgb8(linear, self.exposure), "PNG")
        if bracket.done:
            self.bracket = None
        about = {"part": bracket.part, "dial": bracket.dial, "value": bracket.values[k], "noise": bracket.noise[k]}
        self.send(self, {"type": "bracketed", "place": k, "readable": bracket.readable, **about}, picture)

    def _drawn(self, ray) -> list:
        """The corners of a ray's way as seen in the picture."""
        places = [ray.steps[0].end_cm, *(step.end_cm for step in ray.steps[1:])]
        return [on_picture(self.the_set, [v / 100 for v in place]) for place in places]

    def work(self, tracer: Tracer, pressed: Callable[[], bool]) -> None:
        """One pass: the coarse picture first, then one sample a pixel at full size."""
        if self.asked and self.coarse.counts.any():
            self.answer(tracer)
            return
        if self.bracket:
            self.work_on_bracket(tracer, pressed)
            return
        bounces = self.settings.most_bounces
        if not self.coarse.counts.any():
            tracer.render(self.the_set, self.coarse, most_bounces=bounces)
            self.show(self.coarse)
            if not pressed():
                self.read_gauges(self.coarse)
            return
        tracer.render(self.the_set, self.film, self.samples, most_bounces=bounces, stopped=pressed)
        self.samples += 1
        self.settled = self.samples >= self.settings.most_samples
        if self.settled or self.unacknowledged < FRAMES_IN_FLIGHT:
            self.show(self.film, lossless=self.settled)
        if self.samples in READ_AGAIN_AT and not pressed():
            self.read_gauges(self.film)
        self.keep_proofs()

    def show(self, film: Film, lossless: bool = False) -> None:
        """Send the picture as it is."""
        pixels = to_srgb8(film.rgb(), self.exposure)
        payload = encoded(pixels, "PNG") if lossless else encoded(pixels, "JPEG", quality=JPEG_QUALITY, subsampling=0)
        self.unacknowledged += 1
        self.send(
            self,
            {
                "type": "frame",
                "samples": self.samples,
                "noise": film.noise(),
                "seconds": time.monotonic() - self.began,
                "side": film.width,
                "coarse": film is self.coarse,
                "settled": self.settled,
                "mime": "image/png" if lossless else "image/jpeg",
            },
            payload,
        )

    def read_gauges(self, film: Film) -> None:
        clipped = tuple(float(v) for v in (film.rgb() * 2.0**self.exposure > 1.02).mean(axis=(0, 1)))
        reading = Reading(self.material, self.stage, self.the_set.compiled, length_facts(film.lengths), clipped)
        self.send(self, {"type": "reading", **read_bench(reading, self.inside)})

    def keep_proofs(self) -> None:
        """Answer every wish for a proof with the picture as it is."""
        while self.wanted_proofs and self.samples and self.change is None:
            request = self.wanted_proofs.pop(0)
            picture = encoded(to_srgb8(self.film.rgb(), self.exposure), "PNG")
            facts = {"request": request, "samples": self.samples, "noise": self.film.noise()}
            documents = {"material": self.material.model_dump(mode="json"), "stage": self.stage.model_dump(mode="json")}
            self.send(self, {"type": "proof", **facts, **documents}, picture)


def _without_exposure(stage: Stage) -> dict:
    return stage.model_dump() | {"camera": filled(stage.camera, CAMERAS) | {"exposure": 0}, "name": ""}


def _looks(material: Material) -> dict:
    """What of a material can be seen: not its name, nor where its slips lie or what they are called."""
    modules = [_works(module) | {"dials": module.dials, "gives": module.gives} for module in material.modules]
    return {"section": material.section, "modules": modules, **_works(material)}


def _works(network: Network) -> dict:
    slips = [(slip.id, slip.kind, slip.module, slip.dials) for slip in network.slips if slip.kind != "note"]
    return {"slips": slips, "wires": network.wires}


class Renderer:
    """Reads messages on one thread and works on another."""

    def __init__(self, incoming, outgoing):
        self.incoming, self.outgoing = incoming, outgoing
        self.benches: dict[str, Bench] = {}
        self.wake = threading.Condition()
        self.out_lock = threading.Lock()
        self.closed = False
        self.last: str | None = None

    def send(self, bench: Bench, header: dict, payload: bytes = b"") -> None:
        header = {"session": bench.session, "sequence": bench.sequence, **header}
        with self.out_lock:
            self.outgoing.write(pack(header, payload))
            self.outgoing.flush()

    def listen(self) -> None:
        while True:
            lengths = self.incoming.read(LENGTHS.size)
            if len(lengths) < LENGTHS.size:
                break
            size, extra = LENGTHS.unpack(lengths)
            message = json.loads(self.incoming.read(size))
            self.incoming.read(extra)
            with self.wake:
                self.hear(message)
                self.wake.notify()
        with self.wake:
            self.closed = True
            self.wake.notify()

    def hear(self, message: dict) -> None:
        session = message["session"]
        if message["type"] == "close":
            self.benches.pop(session, None)
            return
        bench = self.benches.setdefault(session, Bench(session, self.send))
        if message["type"] == "show":
            bench.change = message
        elif message["type"] == "shown":
            bench.unacknowledged = max(0, bench.unacknowledged - 1)
        elif message["type"] in ASKED:
            bench.asked = message
        elif message["type"] == "keep":
            bench.wanted_proofs.append(message["request"])

    def next_bench(self) -> Bench | None:
        """Changed benches first, then coarse pictures, then in turn."""
        waiting = [b for b in self.benches.values() if b.waiting()]
        if not waiting:
            return None
        after_last = sorted(waiting, key=lambda b: (b.session <= (self.last or ""), b.session))
        return min(after_last, key=lambda b: 0 if b.change else 1 if not b.coarse.counts.any() else 2)

    def work(self) -> None:
        tracer = Tracer(threads=os.cpu_count() or 1)
        while not self.closed:
            with self.wake:
                bench = self.next_bench()
                if bench is None:
                    for settled in self.benches.values():
                        settled.keep_proofs()
                    self.wake.wait()
                    continue
            self.last = bench.session
            if bench.change:
                bench.take()
                continue
            with contextlib.suppress(Interrupted):
                bench.work(tracer, lambda bench=bench: bench.change is not None or bench.session not in self.benches)


def main() -> None:
    renderer = Renderer(sys.stdin.buffer, sys.stdout.buffer)
    sys.stdout = sys.stderr
    threading.Thread(target=renderer.listen, daemon=True).start()
    renderer.work()


if __name__ == "__main__":
    main()
