"""Follow one ray of light through a stage: where it enters, bends, is thrown back and leaves, and what is left of it.

Deterministic, and where light is scattered one walk of many: at every boundary the stronger branch is followed, or both with `all_branches`. Surfaces count as polished. What is met, the
stack of bands there and the media are those of the picture: the same kernels find them and run the same program.
"""

from dataclasses import dataclass
from math import acos, cos, degrees, exp, pi, sin, sqrt

import numpy as np

from nineglass.matter.substances import D_NM
from nineglass.optics.boundary import four_reflectances
from nineglass.optics.film import NO_FILMS, turned_over
from nineglass.optics.phase import sample_henyey_greenstein
from nineglass.trace.families.registry import FAMILIES, FIBRES, LAYERS
from nineglass.trace.families.stack import Layers
from nineglass.trace.families.walk import Stack
from nineglass.trace.geometry.rays import intersect
from nineglass.trace.locate import locate, sort_by_material
from nineglass.trace.media.start import media_at
from nineglass.trace.paths import AIR, FLOOR, FORM
from nineglass.trace.ray import Ray, RayStep
from nineglass.trace.render import Worker
from nineglass.trace.scene import Set
from nineglass.vectors import frame

MOST_STEPS = 64
LEAST_LEFT = 1e-4
MOST_BRANCHES = 64

WALK_SEED = 5
BEYOND_M = 100.0
"""How far a ray that meets nothing is looked after."""


@dataclass
class Met:
    """What a ray met: nothing, the floor, or the surface of a thing with its stack of bands."""

    distance: float
    thing: int = -1
    floor: bool = False
    strand: bool = False
    place: np.ndarray | None = None
    flat: np.ndarray | None = None
    clearance: float = 0.0
    entering: bool = True
    before: int = AIR
    after: int = AIR
    stack: Stack | None = None
    frame: np.ndarray | None = None
    """Rows: the axes in which the normals of the stack are given."""
    layers: Layers | None = None

    @property
    def unseen(self) -> bool:
        """Whether it lies within matter of a higher priority, or within the same."""
        return self.before == self.after


@dataclass
class Branch:
    """A ray under way: on the stage, or within a stack at one of its levels."""

    ray: Ray
    at: np.ndarray
    way: np.ndarray
    within: list[int]
    ended: bool = False


@dataclass
class Inner:
    """A ray under way within a stack: along `way`, in the medium of a level."""

    ray: Ray
    way: np.ndarray
    level: int
    inwards: bool
    reached: bool = False
    """Whether the way to the surface is booked."""


class Follower:
    """Follows rays through one set."""

    def __init__(self, the_set: Set):
        self.set = the_set
        self.scene = the_set.scene
        self.names = [_name(p, the_set) for p in the_set.standing.placed]
        self.worker = Worker(1)
        self.worker.take(the_set)

    def name(self, medium: int) -> str:
        return "air" if medium == AIR else self.names[medium]

    def _medium(self, within: list[int]) -> int:
        priority = self.scene.geometry.things.priority
        return max(within, key=lambda j: (priority[j], -within.index(j))) if within else AIR

    def _curve(self, curves: np.ndarray, medium: int, nm: float, in_air: float) -> float:
        if medium == AIR:
            return in_air
        row = curves[self.scene.geometry.things.matter[medium]]
        return float(np.interp(nm, np.arange(380, 781), row))

    def _index(self, medium: int, nm: float) -> float:
        return self._curve(self.scene.media.index, medium, nm, 1.0)

    def _sigma_s(self, medium: int, nm: float) -> float:
        return self._curve(self.scene.media.sigma_s, medium, nm, 0.0)

    def _extinction(self, medium: int, nm: float) -> float:
        return self._curve(self.scene.media.sigma, medium, nm, 0.0) + self._sigma_s(medium, nm)

    def follow(self, origin, direction, nm: float, all_branches: bool = False) -> list[Ray]:
        """The ways of a ray from a point (m, about the middle of the stage) along a direction."""
        origin, direction = np.asarray(origin, float), np.asarray(direction, float)
        direction = direction / np.linalg.norm(direction)
        waiting, done = [Branch(Ray(nm), origin, direction, media_at(self.set.standing, origin))], []
        while waiting and len(done) < MOST_BRANCHES:
            branch = waiting.pop()
            while not branch.ended and len(branch.ray.steps) < MOST_STEPS and branch.ray.left > LEAST_LEFT:
                onward = self._step(branch)
                if not onward:
                    break
                branch = onward[0]
                if all_branches:
                    waiting += [other for other in onward[1:] if other.ray.left > LEAST_LEFT]
            done.append(branch.ray)
        return done

    def first_thing(self, origin, direction) -> int | None:
        """Which of the parts that stand a ray meets first."""
        origin, direction = np.asarray(origin, float), np.asarray(direction, float)
        way = direction / np.linalg.norm(direction)
        met = self.meet(Branch(Ray(D_NM), origin, way, media_at(self.set.standing, origin)))
        return met.thing if met.thing >= 0 else None

    def meet(self, branch: Branch) -> Met:
        """What a ray meets first, by the kernels of the picture."""
        worker, scene, nm = self.worker, self.scene, branch.ray.wavelength_nm
        batch, registers = worker.batch, worker.registers
        worker.clear()
        paths = batch.paths
        paths.origin[:, 0], paths.direction[:, 0] = branch.at, branch.way
        paths.wavelength[:, 0], paths.weight[:, 0], paths.sigma_a[:, 0] = nm, 1, 0
        paths.lines[0], paths.bounce[0], paths.state[0], paths.pdf[0], paths.length[0] = 1, 1, 0, -1, 0
        paths.levels[0], paths.medium[0] = len(branch.within), self._medium(branch.within)
        paths.within[: len(branch.within), 0] = branch.within
        batch.active[0], batch.counts[0] = 0, 1
        intersect(batch, scene)
        distance, what = float(batch.hits.distance[0]), int(batch.hits.what[0])
        if what == FLOOR:
            return Met(distance, floor=True)
        if what != FORM:
            return Met(distance)
        locate(batch, scene)
        sort_by_material(batch, scene, registers)
        worker.run_programs(self.set)
        self._choose_side(batch, registers)
        if scene.sides.family[int(batch.hits.matter[0])] == FIBRES:
            return Met(distance, thing=int(batch.hits.thing[0]), strand=True)
        room, layers = FAMILIES[LAYERS].room, worker.scratch[LAYERS]
        stack, normal, before, after, entering = room.look(
            batch, registers, scene, self.set.table.families[LAYERS], layers
        )
        x, y = frame(tuple(np.float32(v) for v in normal))
        return Met(
            distance=distance,
            thing=int(batch.hits.thing[0]),
            place=paths.origin[:, 0].astype(float),
            flat=batch.hits.flat[:, 0].astype(float),
            clearance=float(batch.hits.clearance[0]),
            entering=bool(entering),
            before=int(before),
            after=int(after),
            stack=stack,
            frame=np.array([x, y, normal], float),
            layers=layers._replace(**{name: getattr(layers, name).copy() for name in layers._fields}),
        )

    def _choose_side(self, batch, registers) -> None:
        """At a split the side that shows more is followed."""
        m, sides = int(batch.hits.matter[0]), self.scene.sides
        if sides.split[m] >= 0:
            batch.hits.matter[0] = sides.split[m] + int(registers[sides.mask[m], 0] > 0.5)

    def _step(self, branch: Branch) -> list[Branch]:
        """Go on to the next boundary: the branches, the stronger first; none at the end."""
        met = self.meet(branch)
        medium = self._medium(branch.within)
        scatters = self._sigma_s(medium, branch.ray.wavelength_nm)
        if scatters * (met.distance if met.thing >= 0 or met.floor else BEYOND_M) > 1:
            met = self._wander(branch, met, medium, scatters)
            if met is None:
                return []
        if met.thing < 0:
            if met.floor:
                self._end(branch, met.distance, "floor", "ends at the floor")
            else:
                self._end(branch, 0.05, "", "goes out")
            return []
        if met.strand:
            self._end(branch, met.distance, self.name(met.thing), "is sent on to many sides by a strand")
            return []
        if met.unseen:
            inner = Inner(branch.ray, branch.way, 0, met.entering)
            event = f"passes into {self.name(met.after)}"
            cosine = abs(float(branch.way @ met.flat))
            one = self._book(branch, inner, met, self.name(met.thing), event, Event(cosine, None, 1.0, 1.0, 0.0, 1.0))
            return [self._beyond(branch, met, one, goes_in=met.entering)]
        return self._at_surface(branch, met)

    def _wander(self, branch: Branch, met: Met, medium: int, scatters: float) -> Met | None:
        """One walk of the many that light may take where it is scattered, always the same: what it meets at its end; None when it does not end."""
        rng, ray = np.random.default_rng(WALK_SEED), branch.ray
        nm, name = ray.wavelength_nm, self.name(medium)
        row = self.scene.geometry.things.matter[medium]
        absorbs, g = self._extinction(medium, nm) - scatters, float(self.scene.media.asymmetry[row])
        while len(ray.steps) < MOST_STEPS - 1:
            length = float(rng.exponential(1 / scatters))
            if length >= met.distance:
                # What the way to the surface would lose by scattering is not lost: the walk has come so far.
                ray.left *= exp(scatters * met.distance)
                return met
            turns = Event(None, None, self._index(medium, nm), None, None, exp(-absorbs * length))
            self._add(ray, branch.at, branch.at + branch.way * length, name, name, "is scattered", turns)
            branch.at = branch.at + branch.way * length
            branch.way = _turned(branch.way, float(sample_henyey_greenstein(np.float32(g), rng.random())), rng.random())
            met = self.meet(branch)
        self._end(branch, 1 / scatters, name, "is scattered on and on")
        return None

    def _at_surface(self, branch: Branch, met: Met) -> list[Branch]:
        """The branches that leave a surface with its stack of bands, the stronger first."""
        level = 0 if met.entering else met.stack.boundaries
        waiting, left = [Inner(branch.ray, branch.way, level, met.entering)], []
        while waiting and len(left) < MOST_BRANCHES:
            one = waiting.pop()
            if not one.inwards and one.level == 0:
                left.append(self._beyond(branch, met, one, goes_in=False))
            elif one.inwards and one.level == met.stack.boundaries and not met.stack.metal:
                left += self._at_bottom(branch, met, one)
            elif len(one.ray.steps) < MOST_STEPS and one.ray.left > LEAST_LEFT:
                waiting += reversed(self._at_boundary(branch, met, one))
        return left

    def _at_boundary(self, branch: Branch, met: Met, one: Inner) -> list[Inner]:
        """The two ways on at one boundary of a stack, the stronger first; one where nothing passes."""
        stack, layers, inwards = met.stack, met.layers, one.inwards
        k, ends = one.level - (0 if inwards else 1), inwards and one.level == stack.boundaries
        normal = (layers.normal[k].astype(float) @ met.frame) * (1 if inwards else -1)
        if -one.way @ normal <= 1e-4:
            normal = met.frame[2] * (1 if inwards else -1)
        cos_i = min(float(-one.way @ normal), 1.0)
        n1, n2 = float(layers.index[one.level, 0]), float(layers.index[one.level + (1 if inwards else -1), 0])
        reflectance = self._reflectance(met, k, inwards, ends, cos_i)
        over = self._over(met, k, one.level)
        mirrored = one.way + 2 * cos_i * normal
        sin2 = (1 - cos_i**2) * (n1 / n2) ** 2
        if ends or sin2 >= 1:
            event = Event(cos_i, None, n1, n2, reflectance, reflectance)
            back = self._book(branch, one, met, over, "reflected" if ends else "totally reflected", event)
            back.ray.left *= self._crossed(met, one.level, mirrored)
            return [Inner(back.ray, mirrored, one.level, not inwards, True)]
        cos_t, onward = sqrt(1 - sin2), one.level + (1 if inwards else -1)
        bent = one.way * (n1 / n2) + normal * (cos_i * n1 / n2 - cos_t)
        beyond = self._medium_at(met, onward)
        word = f"passes into {beyond}" if n1 == n2 else f"enters {beyond}" if inwards else f"leaves into {beyond}"
        found = []
        for passes in (reflectance < 0.5, reflectance >= 0.5):
            share = (1 - reflectance if passes else reflectance) * self._tint(met, k, passes, inwards)
            if share <= 0:
                continue
            event = Event(cos_i, cos_t, n1, n2, reflectance, share)
            way = Inner(one.ray.branch(), one.way, one.level, inwards, one.reached)
            next_ = self._book(branch, way, met, over, word if passes else "reflected", event)
            if passes:
                crossed = self._crossed(met, onward, bent / np.linalg.norm(bent))
                next_.ray.left *= crossed
                found.append(Inner(next_.ray, bent / np.linalg.norm(bent), onward, inwards, True))
            else:
                next_.ray.left *= self._crossed(met, one.level, mirrored)
                found.append(Inner(next_.ray, mirrored, one.level, not inwards, True))
        return found

    def _reflectance(self, met: Met, k: int, inwards: bool, ends: bool, cos_i: float) -> float:
        layers = met.layers
        row = layers.films[k]
        films = (int(row[0]), *row[1:]) if row[0] else NO_FILMS
        above, below = tuple(layers.index[k]), tuple(layers.index[k + 1])
        before, beyond = (above[0], below) if inwards else (below[0], above)
        extinction = tuple(layers.extinction) if ends else (np.float32(0),) * 4
        films = films if inwards else turned_over(films)
        _, share = four_reflectances(films, np.float32(cos_i), before, beyond, extinction, tuple(layers.nm))
        return float(share)

    def _at_bottom(self, branch: Branch, met: Met, one: Inner) -> list[Branch]:
        """Light that reached what is beneath all boundaries: thrown back evenly, or on into the matter."""
        layers, cosine = met.layers, abs(float(one.way @ met.frame[2]))
        thrown = 1.0
        for k in range(met.stack.tops, met.stack.lobes):
            thrown *= 1 - float(layers.amount[k])
        n = float(layers.index[min(one.level, len(layers.index) - 1), 0])
        if thrown < 0.5:
            event = Event(cosine, None, n, None, None, 1.0)
            one = self._book(branch, one, met, self.name(met.thing), "is thrown back evenly by the body colour", event)
            return [Branch(one.ray, met.place, one.way, branch.within, ended=True)]
        one.ray.left *= thrown
        if not one.reached:
            event = Event(cosine, None, n, n, 0.0, 1.0)
            one = self._book(branch, one, met, self.name(met.thing), f"passes into {self.name(met.after)}", event)
        return [self._beyond(branch, met, one, goes_in=True)]

    def _tint(self, met: Met, k: int, passes: bool, inwards: bool) -> float:
        """What the interface of a stack lets pass, or lets be mirrored from outside."""
        if k != met.stack.coats:
            return 1.0
        return float(met.layers.tint[0]) if passes else float(met.layers.mirrored[0]) if inwards else 1.0

    def _crossed(self, met: Met, level: int, way: np.ndarray) -> float:
        """What is left of light that crosses a coat once."""
        if not 0 < level <= met.stack.coats:
            return 1.0
        return float(met.layers.clear[level, 0]) ** (1 / max(abs(float(way @ met.frame[2])), 0.01))

    def _medium_at(self, met: Met, level: int) -> str:
        """What is between two boundaries of a stack, or beyond them."""
        if level == 0:
            return self.name(met.before if met.entering else met.after)
        if level <= met.stack.coats:
            return f"the coat of {self.name(met.thing)}"
        return self.name(met.after if met.entering else met.before)

    def _over(self, met: Met, k: int, level: int) -> str:
        """What a boundary is called: the thing, its coat, and the film on either."""
        what = f"the coat of {self.name(met.thing)}" if k < met.stack.coats else self.name(met.thing)
        return f"film on {what}" if met.layers.films[k, 0] else what

    def _beyond(self, branch: Branch, met: Met, one: Inner, *, goes_in: bool) -> Branch:
        """A ray that left a surface, set off just beside it."""
        side = -1 if goes_in else 1
        within = branch.within
        if goes_in and met.entering:
            within = [*within, met.thing]
        elif not goes_in and not met.entering:
            within = _without(within, met.thing)
        return Branch(one.ray, met.place + met.flat * side * met.clearance, one.way, within)

    def _end(self, branch: Branch, length: float, what: str, event: str) -> None:
        medium, ray = self._medium(branch.within), branch.ray
        absorbed = exp(-self._extinction(medium, ray.wavelength_nm) * (length if what else 0.0))
        ends = Event(None, None, self._index(medium, ray.wavelength_nm), None, None, absorbed)
        self._add(ray, branch.at, branch.at + branch.way * length, self.name(medium), what, event, ends)

    def _book(self, branch: Branch, one: Inner, met: Met, what: str, event: str, about: "Event") -> Inner:
        """Book what happened at a boundary: with the way to it for the first of a surface, without a way for those beneath."""
        if one.reached:
            self._add(one.ray, met.place, met.place, self._medium_at(met, one.level), what, event, about)
            return one
        medium = self._medium(branch.within)
        if medium == AIR and not met.entering:
            medium = met.before
        one.ray.left *= exp(-self._extinction(medium, one.ray.wavelength_nm) * met.distance)
        self._add(one.ray, branch.at, met.place, self.name(medium), what, event, about)
        return Inner(one.ray, one.way, one.level, one.inwards, True)

    @staticmethod
    def _add(ray: Ray, at, end, medium: str, what: str, event: str, about: "Event") -> None:
        ray.left *= about.share
        places = [[round(float(v) * 100, 6) for v in p] for p in (at, end)]
        length = float(np.linalg.norm(np.asarray(end) - at)) * 100
        angles = (_degrees(about.cos_i), _degrees(about.cos_t))
        ray.steps.append(
            RayStep(*places, length, medium, what, event, *angles, about.n1, about.n2, about.reflectance, ray.left)
        )


@dataclass
class Event:
    """What happens at a boundary: cosines before and beyond, indices, reflectance, and the share of the light that goes on."""

    cos_i: float | None
    cos_t: float | None
    n1: float
    n2: float | None
    reflectance: float | None
    share: float


def _turned(way: np.ndarray, cosine: float, share: float) -> np.ndarray:
    """A direction at an angle to a way, so far around it of a whole turn."""
    x, y = (np.array(axis, float) for axis in frame(tuple(np.float32(v) for v in way)))
    sine, phi = sqrt(max(1 - cosine * cosine, 0.0)), 2 * pi * share
    onward = sine * cos(phi) * x + sine * sin(phi) * y + cosine * way
    return onward / np.linalg.norm(onward)


def _degrees(cosine: float | None) -> float | None:
    return None if cosine is None else degrees(acos(min(max(cosine, -1.0), 1.0)))


def _name(placed, the_set: Set) -> str:
    """What an object is called, with its part when it has several."""
    one = next(o for o in the_set.stage.objects if o.id == placed.object_id)
    alone = sum(p.object_id == placed.object_id for p in the_set.standing.placed) == 1
    return (one.name or one.id).lower() + ("" if alone else f", {placed.part}")


def _without(within: list[int], j: int) -> list[int]:
    at = within.index(j) if j in within else None
    return [one for i, one in enumerate(within) if i != at]


FAN_NM = (430.0, 470.0, 510.0, 550.0, D_NM, 620.0, 660.0)


def fan_of(the_set: Set, origin, direction) -> list[Ray]:
    """The stronger branch at seven wavelengths; one ray when nothing disperses."""
    follower = Follower(the_set)
    lines = FAN_NM if the_set.splits else (D_NM,)
    return [follower.follow(origin, direction, nm)[0] for nm in lines]


def through_pixel(the_set: Set, x: float, y: float) -> tuple[np.ndarray, np.ndarray]:
    """(origin in m, unit direction) of the ray through a place of the picture, 0 to 1 from the left and from the top."""
    lens = the_set.lens
    way = lens.forward + lens.right * (2 * x - 1) + lens.up * (1 - 2 * y)
    return lens.eye.astype(float), way / np.linalg.norm(way)


def on_picture(the_set: Set, place_m) -> list[float] | None:
    """Where a place is seen in the picture, 0 to 1 from the left and from the top; None behind the camera."""
    lens = the_set.lens
    way = np.asarray(place_m, float) - lens.eye
    depth = float(way @ lens.forward)
    if depth <= 1e-6:
        return None
    x = float(way @ lens.right) / float(lens.right @ lens.right) / depth
    y = float(way @ lens.up) / float(lens.up @ lens.up) / depth
    return [0.5 + x / 2, 0.5 - y / 2]
