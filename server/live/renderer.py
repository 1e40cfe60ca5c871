"""The rendering process: many benches, a slice of work for each in turn, changed ones first. Talks over its standard input and output."""

import json
import logging
import logging.config
import os
import sys
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field

from config.errors import logged
from config.settings import LOGGING
from nineglass import warm
from nineglass.catalogue import CAMERAS
from nineglass.describe import Fault, Refused
from nineglass.documents.lights import unlit
from nineglass.documents.model import Material, Network, Settings, Stage, read
from nineglass.documents.put_in_files import faults_of_files, files_in
from nineglass.documents.shown import ASPECTS
from nineglass.documents.trials import read_trial
from nineglass.finals.apart import Apart
from nineglass.gauges import Reading
from nineglass.gauges.bench import read_bench
from nineglass.picture.display import encoded
from nineglass.picture.smooth import Shot
from nineglass.picture.views import VIEWS, clipped, stops_drawn
from nineglass.trace.adaptive import next_jobs
from nineglass.trace.film import Film, length_facts
from nineglass.trace.follow import fan_of, on_picture, through_pixel
from nineglass.trace.hold_up import hold_up
from nineglass.trace.pick import focus_at, pick, whose
from nineglass.trace.render import Interrupted, Job, Tracer
from nineglass.trace.scene import Set, build_set, filled
from nineglass.trials.out import labelled

from live import messages
from live.beside import Beside
from live.counted import InFlight, Wishes
from live.rows import Bracket, TrialRun
from live.wire import LENGTHS, pack

log = logging.getLogger(__name__)

COARSE_SIDE, COARSE_SHARE = 112, 0.25
"""Pixels along the longer side of the first picture, at most; and as a share of the whole one."""

MOST_PIXELS = 2_000_000
"""A picture that has as many is not made finer."""

SHARE_OF_ROOM = {"half": 0.5, "full": 1.0}
"""Of the pixels that the picture takes on the screen, by `Settings.pixels`."""

FRAMES_IN_FLIGHT = 3
JPEG_QUALITY = 88
READ_AGAIN_AT = (2, 16)
"""Samples at which the path lengths are measured well enough to read the gauges again."""

LOOK_AGAIN_S = 0.5
"""How often compiled kernels are looked for."""

TURN_S = 0.1
"""How long a bench works before another one that waits is looked at."""

SMOOTHING_SHARE = 0.1
"""How much of the time may be spent on smoothing, once the first pictures are there."""

TOLD_FROM = 8
"""Samples from which the noise left in a smoothed picture is told."""

RESTS_BELOW = 0.005
"""Noise left, of the picture that is shown, at which it gets no more samples."""

QUIET_S = 0.35
"""For how long nothing may change before all strands grow."""

BEAT_S = 1.0

DOCUMENTS = {"material": Material, "stage": Stage, "settings": Settings}
"""Of a change."""

ANSWERED = ("pick", "follow", "focus", "whose", "hold")
ROWS = ("bracket", "trial")
FOLLOWING = ("pick", "follow", "focus", "whose")
"""Answers that follow a ray."""


@dataclass(frozen=True)
class Still:
    """The picture as it was at one moment, to be shown."""

    shot: Shot
    about: dict
    """What a frame says of it."""
    view: str
    stops: bool
    lossless: bool

    def frame_of(self, smooths: bool) -> tuple[messages.Frame, bytes]:
        """The message that shows it, and its bytes."""
        tells = self.shot.samples >= TOLD_FROM
        rgb, noise = self.shot.smoothed(tells) if smooths else (self.shot.rgb, self.shot.noise)
        shows = stops_drawn if self.stops else VIEWS[self.view]
        pixels = shows(rgb, self.shot.exposure_ev)
        kind, how = ("PNG", {}) if self.lossless else ("JPEG", {"quality": JPEG_QUALITY, "subsampling": 0})
        about = {**self.about, "noise": noise, "smoothed": smooths, "mime": f"image/{kind.lower()}"}
        return messages.Frame(**about), encoded(pixels, kind, **how)


@dataclass
class Bench:
    """One open bench: what it shows, and how far its picture is."""

    session: str
    say: Callable[..., None]
    read_later: Callable[..., None]
    set_like: Callable[[Stage], Set | None] = lambda stage: None
    """A set of another bench on the same stage, of which what is the same is taken over."""
    smooth_later: Callable[..., None] | None = None
    """Has a picture smoothed beside and shown; None where pictures are shown as rendered only."""
    grow_later: Callable[..., None] = lambda *about: None
    """Has the strands of a set grow beside."""
    has_grown: bool = False
    """Whether those that were missing are there now."""
    smooths: bool = True
    stops: bool = False
    look: dict | None = None
    """A change of `smooths` and `stops` that is asked for."""
    change: dict | None = None
    sequence: int = 0
    given: dict = field(default_factory=dict)
    """The documents as they were sent last, and as they were read."""
    read_last: tuple = (None, None)
    """The change that was read last, and what `_read` made of it."""
    reading: threading.Lock = field(default_factory=threading.Lock)
    spoilt: bool = False
    """Whether work on the picture was broken off, so that it has to begin anew."""
    material: Material | None = None
    stage: Stage | None = None
    settings: Settings = field(default_factory=Settings)
    the_set: Set | None = None
    coarse: Film | None = None
    film: Film | None = None
    room: tuple | None = None
    part: tuple | None = None
    """The part of the picture that alone is made."""
    keeps_apart: bool = False
    apart: Apart | None = None
    """Its lights, where they are kept apart and are not too many."""
    left: list[Job] = field(default_factory=list)
    """What is still to be done of the pass under way, when it made way for another bench."""
    rounds: int = 0
    samples: int = 0
    began: float = 0.0
    in_flight: InFlight = field(default_factory=InFlight)
    settled: bool = False
    is_unseen: bool = False
    """Whether nobody sees the picture, so that it rests."""
    noise_left: float | None = None
    """Of the picture that was shown last, where it is told."""
    wanted_proofs: Wishes = field(default_factory=Wishes)
    inside: str = ""
    """The use of a module that is open on the network, by `use/use within`."""
    row: Bracket | TrialRun | None = None
    """A row of pictures under way."""
    tried: TrialRun | None = None
    """The trial that was made last, to be kept."""
    wanted_trials: Wishes = field(default_factory=Wishes)
    asked: dict | None = None
    row_asked: dict | None = None
    """A pick, a ray to follow, a slip to hold up ...; the newest wins."""
    lacks: list[str] = field(default_factory=list)
    """Kernels that its set needs and that are still being compiled."""
    smoothing_took_s: float = 0.1
    shown_at: float = 0.0
    used: float = 0.0
    """Seconds that it was worked for, counted so that the least used bench is next."""

    @property
    def exposure(self) -> float:
        return self.the_set.exposure if self.the_set else 0.0

    def send(self, message, payload: bytes = b"") -> None:
        self.say(self.session, self.sequence, message, payload)

    def waiting(self) -> bool:
        """Whether there is anything to do."""
        if self.change is not None or self.look is not None or self.has_grown:
            return True
        if self.the_set is None or self._lacks_kernels():
            return False
        asked = self.can_answer() or self.row_asked is not None or bool(self.wanted_trials)
        rests = self.settled or (self.is_unseen and not self.wanted_proofs)
        return not rests or asked or self.row is not None

    def _lacks_kernels(self) -> bool:
        self.lacks = [name for name in self.lacks if not warm.is_ready(name)]
        return bool(self.lacks)

    def can_answer(self) -> bool:
        return self.asked is not None and (self.asked["type"] not in FOLLOWING or warm.is_ready("follow"))

    def is_urgent(self) -> bool:
        """Whether another bench's pass has to make way: a change, or a first picture that is still to come."""
        if self.change is not None:
            return True
        coarse = self.coarse
        return self.the_set is not None and not self.lacks and coarse is not None and not coarse.counts.any()

    def is_overtaken(self) -> bool:
        """Whether a change waits that samples do not go on under: work on the picture then breaks off where it is, and what was made is spoilt."""
        change = self.change
        if change is not None and not self.spoilt:
            with self.reading:
                read = self._read(change)
                self.spoilt = isinstance(read, Exception) or (
                    isinstance(read, tuple) and not self._goes_on(*read, change)
                )
        return self.spoilt

    def _read(self, change: dict) -> tuple[Material, Stage, Settings] | list[Fault] | Exception:
        """The checked documents of a change, or what is wrong with them; read once."""
        if self.read_last[0] is not change:
            try:
                documents = self._documents(change)
            except Refused as refused:
                documents = refused.faults
            except Exception as error:
                documents = error
            self.read_last = (change, documents)
        return self.read_last[1]

    def _documents(self, change: dict) -> tuple[Material, Stage, Settings]:
        """Those that have not changed are not read again."""
        for name, model in DOCUMENTS.items():
            if self.given.get(name, (None,))[0] != change[name]:
                self.given[name] = (change[name], read(model, change[name]))
        material, stage, settings = (self.given[name][1] for name in DOCUMENTS)
        if faults := [fault for one in (material, stage) for fault in faults_of_files(files_in(one))]:
            raise Refused(faults)
        return material, stage, settings

    def _goes_on(self, material: Material, stage: Stage, settings: Settings, change: dict) -> bool:
        """Whether the samples that were made are those of changed documents as well."""
        wishes = (settings, change.get("room"), change.get("part"), change.get("apart", False))
        if self.stage is None or wishes != (self.settings, self.room, self.part, self.keeps_apart):
            return False
        shown, now = (self.material, self.stage), (material, stage)
        if self.apart:
            if not self.samples or self.apart.turned(*now) is None:
                return False
            shown, now = unlit(*shown), unlit(*now)
        return _seen_alike(now[1], shown[1]) and _looks(now[0]) == _looks(shown[0])

    def take(self) -> None:
        """Take up the newest change; one that the samples go on under keeps the picture."""
        change, self.change = self.change, None
        self.row = None
        self.sequence = change["sequence"]
        documents = self._read(change)
        if isinstance(documents, Exception):
            raise documents
        if isinstance(documents, list):
            self._refuse(documents)
            return
        material, stage, settings = documents
        try:
            the_set = build_set(
                material, stage, ASPECTS[stage.shape], waits=False, before=self.the_set or self.set_like(stage)
            )
        except Refused as refused:
            self._refuse(refused.faults)
            return
        share_before = self.the_set.strands_share if self.the_set else None
        inside_before, self.inside = self.inside, change["inside"]
        same = not self.spoilt and self._goes_on(material, stage, settings, change)
        same = same and the_set.strands_share == share_before
        self.room, self.part, self.keeps_apart = change.get("room"), change.get("part"), change.get("apart", False)
        self.material, self.stage, self.settings, self.the_set = material, stage, settings, the_set
        self.lacks = warm.missing_for(the_set)
        self.has_grown = False
        if the_set.strands_share < 1:
            self.grow_later(self.session, self.sequence, the_set)
        if same and self.film and not self.lacks:
            if self.apart:
                self.apart.turn(material, stage)
                self.apart.put_together(self.film)
            film = self.film if self.samples else self.coarse
            self.show(film, lossless=self.settled)
            if self.inside != inside_before:
                self.read_gauges(film)
            return
        self._begin_anew()

    def _refuse(self, faults: list[Fault]) -> None:
        """Say what is wrong with a change; the picture stays that of what was there before."""
        self.given.clear()
        self.send(messages.FaultsFound(faults=[vars(fault) for fault in faults]))
        if self.spoilt and self.the_set:
            self._begin_anew()

    def _begin_anew(self) -> None:
        """Begin the picture again, the coarse one first."""
        self.spoilt = False
        width, height = self._size()
        coarser = min(COARSE_SHARE, COARSE_SIDE / max(width, height))
        small = (max(round(width * coarser), 1), max(round(height * coarser), 1))
        self.film, self.coarse = Film(width, height), Film(*small)
        self.samples, self.rounds, self.left, self.settled, self.began = 0, 0, [], False, time.monotonic()
        self.noise_left = None
        about = (self.material, self.stage, self.the_set, ASPECTS[self.stage.shape], self._framed, (width, height))
        self.apart = Apart.of(*about) if self.keeps_apart else None

    @property
    def whole_size(self) -> tuple[int, int]:
        """Pixels of the whole picture across and down."""
        aspect, longer = ASPECTS[self.stage.shape], self.settings.picture_side
        share = SHARE_OF_ROOM.get(self.settings.pixels)
        if self.room and share:
            longer = share * min(self.room[0], self.room[1] * aspect) / min(aspect, 1)
        longer = min(longer, (MOST_PIXELS * max(aspect, 1 / aspect)) ** 0.5)
        wide, high = longer * min(aspect, 1), longer / max(aspect, 1)
        return max(round(wide), 16), max(round(high), 16)

    def _size(self) -> tuple[int, int]:
        """Pixels of what is made."""
        width, height = self.whole_size
        if not self.part:
            return width, height
        left, top, right, bottom = self.part
        return max(round(width * (right - left)), 8), max(round(height * (bottom - top)), 8)

    @property
    def seen(self) -> Set:
        """The set as what is made sees it."""
        return self._framed(self.the_set)

    def _framed(self, the_set: Set) -> Set:
        return the_set.through(the_set.lens.framed(*self.part)) if self.part else the_set

    def set_aside(self, error: Exception) -> None:
        """Say what went wrong while its document was shown, and show nothing until it changes."""
        self.send(messages.FaultsFound(faults=[_fault_of(error, "the picture could not be made")]))
        self._disappoint("the picture could not be made")
        self.given.clear()
        self.the_set = self.film = self.coarse = self.apart = self.row = self.tried = None
        self.asked = self.row_asked = self.change = None
        self.has_grown = False

    def answer_or_say_why_not(self, answer: Callable[[], None]) -> None:
        try:
            answer()
        except Interrupted:
            raise
        except Exception as error:
            self.send(messages.FaultsFound(faults=[_fault_of(error, "what was asked could not be answered")]))

    def answer(self, tracer: Tracer) -> None:
        """Read one place of the picture, follow the ray that it shows, or say what would make it sharp."""
        asked, self.asked = self.asked, None
        if asked["type"] == "hold":
            self.hold(asked["slip"])
            return
        x, y = asked["x"], asked["y"]
        if asked["type"] == "pick":
            size, bounces = self.whole_size, self.settings.most_bounces
            self.send(messages.Picked(x=x, y=y, **pick(self.the_set, tracer, x, y, size, bounces)))
            return
        if asked["type"] == "focus":
            self.send(messages.Focused(focus=focus_at(self.the_set, x, y)))
            return
        if asked["type"] == "whose":
            name, part = whose(self.the_set, x, y) or (None, "")
            self.send(messages.Whose(object=name, part=part))
            return
        rays = fan_of(self.the_set, *through_pixel(self.the_set, x, y))
        drawn = [{**ray.as_json(), "drawn": self._drawn(ray)} for ray in rays]
        self.send(messages.Followed(x=x, y=y, rays=drawn))

    def hold(self, slip: str) -> None:
        """Show what a slip gives on the form, unlit."""
        ports = [port for one, port in self.the_set.compiled.outputs if one == slip]
        if not ports:
            return
        width, height = self.whole_size
        held = hold_up(self.the_set, slip, width, ports[0], height)
        picture = held.picture(self.the_set.compiled.kinds[slip].gives[0].type == "vector")
        self.send(messages.Held(slip=slip, mime="image/png", **held.facts()), encoded(picture, "PNG"))

    def begin_row(self) -> None:
        """Begin a bracket or a trial, or leave the one under way when none is asked for."""
        asked, self.row_asked = self.row_asked, None
        try:
            self.row = self._row_of(asked)
        except Refused as refused:
            self.row = None
            self.send(messages.FaultsFound(faults=[vars(fault) for fault in refused.faults]))

    def _row_of(self, asked: dict) -> Bracket | TrialRun | None:
        if asked["type"] == "bracket":
            return Bracket(self.material, self.stage, self.settings, asked) if asked["values"] else None
        if asked["across"] is None:
            return None
        about = {"name": asked["name"], "across": asked["across"], "down": asked["down"]}
        trial = read_trial({**about, "material": self.material, "stage": self.stage})
        self.tried = TrialRun(trial, self.settings, asked)
        return self.tried

    def work_on_row(self, tracer: Tracer, pressed: Callable[[], bool]) -> None:
        """One round of one picture of a row."""
        row = self.row
        k, linear = row.sheet.step(tracer, pressed, self.settings.most_bounces)
        row.pictures[k] = VIEWS[self.stage.view](linear, row.sheet.exposures[k])
        if row.sheet.done:
            self.row = None
        self.send(row.says(k), encoded(row.pictures[k], "PNG"))

    def keep_trials(self) -> None:
        """Answer every wish to keep a trial, with its pictures on one sheet; one under way is waited for until there is something of each."""
        tried = self.tried
        whole = tried is not None and len(tried.pictures) == len(tried.sheet.films)
        if not whole and tried is not None and self.row is tried:
            return
        wishes = self.wanted_trials.taken()
        if not whole:
            says = "no trial has been made" if tried is None else "it was left before all its pictures were begun"
            for request in wishes:
                self.send(messages.NotKept(request=request, says=says))
            return
        count = len(tried.sheet.films)
        pixels = labelled(tried.trial, [tried.pictures[k] for k in range(count)], tried.sheet.noise)
        means = [tried.sheet.mean(k) for k in range(count)]
        about = {"document": tried.trial.model_dump(mode="json"), "means": means, "noise": tried.sheet.noise}
        for request in wishes:
            self.send({"type": "trial_made", "request": request, **about}, encoded(pixels, "PNG"))

    def _drawn(self, ray) -> list:
        """The corners of a ray's way as seen in the picture."""
        places = [ray.steps[0].end_cm, *(step.end_cm for step in ray.steps[1:])]
        return [on_picture(self.the_set, [v / 100 for v in place]) for place in places]

    def work(self, tracer: Tracer, pressed: Callable[[], bool], makes_way: Callable[[], bool]) -> None:
        """One pass, or what another bench lets it do of one: the coarse picture first, then one sample a pixel at full size."""
        if self.look is not None:
            self.smooths, self.stops, self.look = self.look["smoothed"], self.look["stops"], None
            if self.film is not None and self.coarse.counts.any():
                self.show(self.film if self.samples else self.coarse, lossless=self.settled)
            return
        if self.has_grown:
            self.has_grown = False
            self.the_set = build_set(self.material, self.stage, ASPECTS[self.stage.shape], before=self.the_set)
            self._begin_anew()
        if self.row_asked is not None and self.coarse.counts.any():
            self.answer_or_say_why_not(self.begin_row)
            return
        if self.can_answer() and self.coarse.counts.any():
            self.answer_or_say_why_not(lambda: self.answer(tracer))
            return
        if self.wanted_trials:
            self.keep_trials()
        if self.row:
            self.work_on_row(tracer, pressed)
            return
        how = {"most_bounces": self.settings.most_bounces, "stopped": pressed}
        if not self.coarse.counts.any():
            tracer.render(self.seen, self.coarse, **how)
            self.show(self.coarse)
            self.read_gauges(self.coarse)
            return
        jobs = self.left or next_jobs(self.film, self.rounds, self.exposure)
        if self.apart:
            self.left = self.apart.render(tracer, jobs, makes_way=makes_way, **how)
        else:
            self.left = tracer.render(self.seen, self.film, jobs=jobs, makes_way=makes_way, **how)
        if self.left:
            return
        if self.apart:
            self.apart.put_together(self.film)
        self.rounds += 1
        before, self.samples = self.samples, int(self.film.counts.mean() + 0.5)
        is_quiet = self.noise_left is not None and self.noise_left < RESTS_BELOW
        self.settled = is_quiet or self.samples >= self.settings.most_samples
        if self.settled or (self.in_flight.count < FRAMES_IN_FLIGHT and self._shows_now()):
            self.show(self.film, lossless=self.settled)
        if any(before < count <= self.samples for count in READ_AGAIN_AT):
            self.read_gauges(self.film)
        self.keep_proofs()

    def _shows_now(self) -> bool:
        """A picture as rendered is shown after every pass, a smoothed one when its samples have doubled, and when smoothing it will have
        taken a small share of the time since the last."""
        if not self._is_smoothed() or self.rounds & (self.rounds - 1) == 0:
            return True
        return time.monotonic() - self.shown_at > self.smoothing_took_s / SMOOTHING_SHARE

    def _is_smoothed(self) -> bool:
        return self.smooths and self.smooth_later is not None

    def show(self, film: Film, lossless: bool = False) -> None:
        """Send the picture as it is; smoothed when that is wished: a small one at once, a large one beside the work."""
        coarse = film is self.coarse
        about = {"samples": self.samples, "cut": film.cut_share(), "coarse": coarse, "part": self.part}
        about |= {"width": film.width, "height": film.height}
        about |= {"seconds": time.monotonic() - self.began, "settled": self.settled}
        about |= {"lights": len(self.apart.lights) if self.apart else 0}
        about |= {"nearly": self.apart is not None and self.apart.is_near}
        about |= {"strands": self.the_set.strands if self.the_set.strands_share < 1 else None}
        self.shown_at = time.monotonic()
        still = Still(Shot.of(film, self.exposure), about, self.stage.view, self.stops, lossless)
        smooths = self._is_smoothed() and still.shot.share_of_true < 1
        if coarse or not smooths:
            self.send_frame(*still.frame_of(smooths))
        else:
            self.smooth_later(self.session, self.sequence, still)

    def send_frame(self, frame: messages.Frame, picture: bytes) -> None:
        self.in_flight.sent()
        self.noise_left = frame.noise
        self.send(frame, picture)

    def read_gauges(self, film: Film) -> None:
        """Have the gauges read beside the picture; what they need of it is taken now."""
        ends = clipped(VIEWS[self.stage.view](film.rgb(), self.exposure))
        about = (self.material, self.stage, self.the_set.compiled, length_facts(film.lengths), ends)
        self.read_later(self.session, self.sequence, about, self.inside)

    def _disappoint(self, says: str) -> None:
        for request in self.wanted_proofs.taken():
            self.send(messages.NotKept(request=request, says=says))

    def keep_proofs(self) -> None:
        """Answer every wish for a proof with the picture as it is."""
        if self.the_set is None and self.change is None:
            self._disappoint("there is no picture")
        if not (self.wanted_proofs and self.samples and self.change is None and self.film):
            return
        wishes = self.wanted_proofs.taken()
        shot = Shot.of(self.film, self.exposure)
        rgb, noise = shot.smoothed() if self._is_smoothed() else (shot.rgb, shot.noise)
        picture = encoded(VIEWS[self.stage.view](rgb, self.exposure), "PNG")
        facts = {"samples": self.samples, "noise": noise}
        documents = {"material": self.material.model_dump(mode="json"), "stage": self.stage.model_dump(mode="json")}
        for request in wishes:
            self.send({"type": "proof", "request": request, **facts, **documents}, picture)


def _fault_of(error: Exception, fault: str) -> Fault:
    """What a person is told of an error of ours; the log has it by the same number."""
    number = logged(log, error, fault)
    said = f"{type(error).__name__}: {error}"[:200]
    remedy = f"Undo the last change; nothing that you made is lost. The log has this as {number}."
    return Fault("$", f"{fault} ({said})", "what can be shown", remedy)


def _seen_alike(stage: Stage, other: Stage) -> bool:
    """Whether two stages differ in nothing but exposure and name."""
    cameras = [filled(one.camera, CAMERAS) | {"exposure": 0} for one in (stage, other)]
    if cameras[0] != cameras[1] or stage.camera.kind != other.camera.kind:
        return False
    kept = {"camera": other.camera, "name": other.name, "view": other.view}
    return stage is other or stage.model_copy(update=kept) == other


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
        self.turn: tuple[str, int] | None = None
        """The bench and the document that are worked for."""
        self.turn_began = 0.0
        self.stepped: float | None = None
        """When the work under way last went on; None while nothing is to do."""
        self.clock = 0.0
        """What the bench at work has used."""
        self.gauges = Beside("gauges", self._read_gauges, self._owes_first_pictures)
        self.smoother = Beside("smoother", self._smooth)
        self.grower = Beside("grower", self._grow)
        self.told: tuple[int, int] | None = None
        self.looked = 0.0

    def say(self, session: str, sequence: int, message, payload: bytes = b"") -> None:
        """Send a message of `live.messages`, or its fields, to a bench; to the keeper when no session is named."""
        said = message if isinstance(message, dict) else message.model_dump(mode="json")
        with self.out_lock:
            self.outgoing.write(pack({"session": session, "sequence": sequence, **said}, payload))
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

    def beat(self) -> None:
        """Tell the keeper that this process lives, and since when the work has not gone on."""
        while not self.closed:
            stepped = self.stepped
            self.say("", 0, messages.Beat(seconds=0 if stepped is None else time.monotonic() - stepped))
            time.sleep(BEAT_S)

    def hear(self, message: dict) -> None:
        session = message["session"]
        if message["type"] == "close":
            self.benches.pop(session, None)
            return
        if session not in self.benches:
            self.benches[session] = Bench(
                session,
                self.say,
                self.gauges.ask,
                self._set_like,
                self.smoother.ask,
                self.grower.ask,
                used=self.clock,
            )
        bench = self.benches[session]
        if not bench.waiting():
            bench.used = max(bench.used, self.clock)
        if message["type"] == "show":
            bench.change, bench.row_asked = message, None
        elif message["type"] == "look":
            bench.look = message
        elif message["type"] == "unseen":
            bench.is_unseen = message["unseen"]
        elif message["type"] == "shown":
            bench.in_flight.shown()
        elif message["type"] in ANSWERED:
            bench.asked = message
        elif message["type"] in ROWS:
            bench.row_asked = message
        elif message["type"] == "keep":
            bench.wanted_proofs.append(message["request"])
        elif message["type"] == "keep_trial":
            bench.wanted_trials.append(message["request"])

    def _read_gauges(self, session: str, sequence: int, about: tuple, inside: str) -> None:
        try:
            said = {"type": "reading", **read_bench(Reading(*about), inside)}
        except Exception as error:
            said = messages.FaultsFound(faults=[_fault_of(error, "the gauges could not be read")])
        self.say(session, sequence, said)

    def _smooth(self, session: str, sequence: int, still: Still) -> None:
        """Show a picture freed of noise, when it is not overtaken meanwhile."""
        bench = self.benches.get(session)
        if bench is None or bench.sequence != sequence:
            return
        began = time.monotonic()
        try:
            shown = still.frame_of(smooths=True)
        except Exception:
            log.exception("a picture could not be smoothed; it is shown as rendered")
            shown = still.frame_of(smooths=False)
        bench.smoothing_took_s = time.monotonic() - began
        if bench.sequence == sequence and bench.change is None and bench.smooths:
            bench.send_frame(*shown)

    def _grow(self, session: str, sequence: int, the_set: Set) -> None:
        """Have all strands of a bench grow, once nothing of it has changed for a moment."""
        time.sleep(QUIET_S)
        bench = self.benches.get(session)
        if bench is None or bench.sequence != sequence or bench.change is not None:
            return
        the_set.grow()
        with self.wake:
            bench.has_grown = bench.sequence == sequence and bench.change is None
            self.wake.notify()

    def _set_like(self, stage: Stage) -> Set | None:
        sets = [bench.the_set for bench in list(self.benches.values()) if bench.the_set]
        return next((one for one in sets if one.stage == stage), None)

    def _owes_first_pictures(self) -> bool:
        return any(bench.is_urgent() for bench in list(self.benches.values()))

    def next_bench(self) -> Bench | None:
        """Changed benches first, then coarse pictures, then the one that was worked for least."""
        waiting = [b for b in self.benches.values() if b.waiting()]
        return min(waiting, key=lambda b: (0 if b.change else 1 if b.is_urgent() else 2, b.used), default=None)

    def tell_progress(self) -> None:
        """Say how far the compiling of kernels is, until it is done."""
        if (self.told and self.told[0] == self.told[1]) or time.monotonic() - self.looked < LOOK_AGAIN_S:
            return
        self.looked = time.monotonic()
        before, self.told = self.told, warm.progress()
        if before in (self.told, None):
            return
        now = self.told
        for bench in list(self.benches.values()):
            bench.send(messages.Preparing(done=now[0], of=now[1], waits=bool(bench.lacks)))

    def pause(self) -> None:
        """Nothing to do: answer wishes for proofs, and wait for a message, or for kernels."""
        self.stepped = None
        for settled in self.benches.values():
            settled.keep_proofs()
        compiling = any(bench.lacks for bench in self.benches.values()) or not self.told or self.told[0] < self.told[1]
        self.wake.wait(LOOK_AGAIN_S if compiling else None)

    def work(self) -> None:
        tracer = Tracer(threads=os.cpu_count() or 1)
        while not self.closed:
            self.tell_progress()
            with self.wake:
                bench = self.next_bench()
                if bench is None:
                    self.pause()
                    continue
            self.give_turn(bench, tracer)

    def give_turn(self, bench: Bench, tracer: Tracer) -> None:
        """Work for a bench for a while. What goes wrong is that bench's alone."""
        self.turn_began = self.stepped = time.monotonic()
        turn = (bench.session, bench.change["sequence"] if bench.change else bench.sequence)
        if turn != self.turn:
            self.say("", 0, messages.Turn(bench=turn[0], shows=turn[1]))
            self.turn = turn
        try:
            if bench.change:
                bench.take()
                if bench.lacks:
                    bench.send(messages.Preparing(done=warm.progress()[0], of=len(warm.JOBS), waits=True))
            else:
                bench.work(tracer, lambda: self._is_stale(bench), lambda: self._makes_way(bench))
        except Interrupted:
            pass
        except Exception as error:
            bench.set_aside(error)
        bench.used += time.monotonic() - self.turn_began
        self.clock = bench.used

    def _is_stale(self, bench: Bench) -> bool:
        self.stepped = time.monotonic()
        return bench.session not in self.benches or bench.is_overtaken()

    def _makes_way(self, bench: Bench) -> bool:
        """Whether another bench is to have its turn: it shows nothing yet, or waits and this one has worked for a while. Or there is a change
        that samples go on under."""
        if bench.change is not None:
            return True
        others = [other for other in list(self.benches.values()) if other is not bench]
        if time.monotonic() - self.turn_began > TURN_S:
            return any(other.waiting() for other in others)
        return any(other.is_urgent() for other in others)


def _listen_to_the_end(renderer: Renderer) -> None:
    """When the server is gone there is nothing to render for."""
    renderer.listen()
    os._exit(0)


def main() -> None:
    logging.config.dictConfig(LOGGING)
    sys.setswitchinterval(0.001)
    renderer = Renderer(sys.stdin.buffer, sys.stdout.buffer)
    sys.stdout = sys.stderr
    threading.Thread(target=_listen_to_the_end, args=(renderer,), daemon=True).start()
    threading.Thread(target=renderer.beat, daemon=True).start()
    renderer.work()


if __name__ == "__main__":
    main()
