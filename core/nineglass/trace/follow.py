"""Follow one ray of light through a stage: where it enters, bends, is thrown back and leaves, and what is left of it.

Deterministic: at every boundary the stronger branch is followed, or both with `all_branches`. Surfaces count as polished.
"""

from dataclasses import asdict, dataclass, field
from math import acos, degrees, exp

import numpy as np

from nineglass.kernels import FAR, ZERO, F, builder
from nineglass.matter.substances import WAVELENGTHS_NM
from nineglass.optics.conductor import conductor_reflectance
from nineglass.optics.dielectric import dielectric_reflectance
from nineglass.trace.intersect import nearest, to_stage
from nineglass.trace.lamps import BY_REFLECTIONS
from nineglass.trace.matter import CURVES, EXTINCTION, INDEX, SIGMA
from nineglass.trace.paths import AIR
from nineglass.trace.scene import Set
from nineglass.trace.start import media_at
from nineglass.trace.tree import STACK
from nineglass.vectors import cross, unit

MOST_STEPS = 64
LEAST_LEFT = 1e-4
MOST_BRANCHES = 64


@dataclass
class Step:
    """A straight way and what it ends at. Lengths in cm, angles in degrees to the normal, places about the middle of the stage."""

    start_cm: list[float]
    end_cm: list[float]
    length_cm: float
    medium: str
    object: str
    event: str
    """enters, leaves, passes, totally reflected, reflected, ends at ... or goes out"""
    angle_deg: float | None
    angle_beyond_deg: float | None
    index_before: float
    index_beyond: float | None
    reflectance: float | None
    left: float
    """Share of the light left after the step and its boundary."""


@dataclass
class Ray:
    """A way of light at one wavelength, from the eye's end."""

    wavelength_nm: float
    steps: list[Step] = field(default_factory=list)
    left: float = 1.0

    def as_json(self) -> dict:
        return asdict(self)


@builder
def first_hit(forest, things, origin, direction, seen_by):
    """(distance, thing or -1, triangle, u, v, flat normal) of the first surface along a ray."""
    stack, nears = np.empty(STACK, np.int32), np.empty(STACK, np.float32)
    t, j, triangle, u, v = nearest(forest, things, origin, direction, FAR, seen_by, stack, nears, False)
    if j < 0:
        return t, j, triangle, (ZERO, ZERO, ZERO), (ZERO, ZERO, ZERO)
    k = forest.triangles
    first, second = (k[triangle, 3], k[triangle, 4], k[triangle, 5]), (k[triangle, 6], k[triangle, 7], k[triangle, 8])
    n, rest = forest.normals, F(1) - u - v
    smooth = (
        n[triangle, 0] * rest + n[triangle, 3] * u + n[triangle, 6] * v,
        n[triangle, 1] * rest + n[triangle, 4] * u + n[triangle, 7] * v,
        n[triangle, 2] * rest + n[triangle, 5] * u + n[triangle, 8] * v,
    )
    return t, j, triangle, to_stage(things.axes, j, unit(cross(first, second))), to_stage(things.axes, j, unit(smooth))


class Follower:
    """Follows rays through one set."""

    def __init__(self, the_set: Set):
        self.set = the_set
        self.scene = the_set.scene
        self.names = [_name(p, the_set) for p in the_set.standing.placed]

    def curve(self, medium: int, row: int, nm: float) -> float:
        if medium == AIR:
            return 1.0 if row == INDEX else 0.0
        m = int(self.scene.things.matter[medium])
        return float(np.interp(nm, WAVELENGTHS_NM, self.scene.matters.curves[m * CURVES + row]))

    def name(self, medium: int) -> str:
        return "air" if medium == AIR else self.names[medium]

    def medium(self, within: list[int]) -> int:
        priority = self.scene.things.priority
        return max(within, key=lambda j: (priority[j], -within.index(j))) if within else AIR

    def follow(self, origin, direction, nm: float, all_branches: bool = False) -> list[Ray]:
        """The ways of a ray from a point (m, about the middle of the stage) along a direction."""
        origin, direction = np.asarray(origin, float), np.asarray(direction, float)
        direction = direction / np.linalg.norm(direction)
        waiting, done = [(Ray(nm), origin, direction, media_at(self.scene, origin))], []
        while waiting and len(done) < MOST_BRANCHES:
            ray, at, way, within = waiting.pop()
            while at is not None and len(ray.steps) < MOST_STEPS and ray.left > LEAST_LEFT:
                at, way, within, other = self._step(ray, at, way, within)
                if all_branches and other and other[0].left > LEAST_LEFT:
                    waiting.append(other)
            done.append(ray)
        return done

    def _step(self, ray: Ray, at, way, within):
        """Go on to the next boundary: (new place or None at the end, direction, media, the weaker branch or None)."""
        scene, nm = self.scene, ray.wavelength_nm
        f = tuple(np.float32(v) for v in at), tuple(np.float32(v) for v in way)
        t, j, _, flat, smooth = first_hit(scene.forest, scene.things, *f, BY_REFLECTIONS)
        before = self.medium(within)
        ground = scene.ground
        if ground.present and way[1] < -1e-9 and at[1] > ground.height:
            to_floor = (ground.height - at[1]) / way[1]
            if to_floor < t:
                self._end(ray, at, way, float(to_floor), before, "floor", "ends at the floor")
                return None, way, within, None
        if j < 0:
            self._end(ray, at, way, 0.05, before, "", "goes out")
            return None, way, within, None
        left = ray.left * exp(-self.curve(before, SIGMA, nm) * float(t))
        end = at + way * float(t)
        flat, normal = np.array(flat), np.array(smooth)
        entering = float(way @ flat) < 0
        flat, normal = (flat, normal) if entering else (-flat, -normal)
        if float(-way @ normal) <= 1e-4:
            normal = flat
        inside = [*within, j] if entering else _without(within, j)
        if before == AIR and not entering:
            before = j
        after = self.medium(inside)
        m = int(scene.things.matter[j])
        if scene.matters.metal[m]:
            return self._at_metal(ray, at, end, way, normal, before, j, left, within)
        if scene.matters.opaque[m] and before != after:
            self._end(ray, at, way, float(t), before, self.name(j), "is thrown back evenly by the body colour")
            return None, way, within, None
        n1, n2 = self.curve(before, INDEX, nm), self.curve(after, INDEX, nm)
        if before == after or abs(n1 - n2) < 1e-7:
            event = f"passes into {self.name(after)}"
            self._book(ray, at, end, before, j, event, -way @ normal, None, n1, n2, 0.0, left)
            return end + way * float(scene.clearance), way, inside, None
        cos_i = min(float(-way @ normal), 1.0)
        reflectance, cos_t = (float(v) for v in dielectric_reflectance(np.float64(cos_i), np.float64(n2 / n1)))
        mirrored = way + 2 * cos_i * normal
        if reflectance >= 1:
            self._book(ray, at, end, before, j, "totally reflected", cos_i, None, n1, n2, 1.0, left)
            return end + flat * float(scene.clearance), mirrored, within, None
        bent = way * (n1 / n2) + normal * (cos_i * n1 / n2 - cos_t)
        bent /= np.linalg.norm(bent)
        passes = reflectance < 0.5
        branches = []
        for through in (passes, not passes):
            share = 1 - reflectance if through else reflectance
            word = f"enters {self.name(after)}" if entering else f"leaves into {self.name(after)}"
            branch = ray if through == passes else Ray(nm, list(ray.steps), ray.left)
            event = word if through else "reflected"
            self._book(branch, at, end, before, j, event, cos_i, cos_t, n1, n2, reflectance, left * share)
            side = -flat if through else flat
            place = end + side * float(scene.clearance)
            branches.append((branch, place, bent if through else mirrored, inside if through else within))
        _, place, onward, media = branches[0]
        return place, onward, media, branches[1]

    def _at_metal(self, ray, at, end, way, normal, before, j, left, within):
        nm, cos_i = ray.wavelength_nm, min(float(-way @ normal), 1.0)
        n1 = self.curve(before, INDEX, nm)
        n, k = self.curve(j, INDEX, nm) / n1, self.curve(j, EXTINCTION, nm) / n1
        reflectance = float(conductor_reflectance(np.float64(cos_i), np.float64(n), np.float64(k)))
        self._book(ray, at, end, before, j, "reflected", cos_i, None, n1, n * n1, reflectance, left * reflectance)
        return end + normal * float(self.scene.clearance), way + 2 * cos_i * normal, within, None

    def _end(self, ray, at, way, length, before, what, event):
        left = ray.left * exp(-self.curve(before, SIGMA, ray.wavelength_nm) * (length if what else 0.0))
        n1 = self.curve(before, INDEX, ray.wavelength_nm)
        self._add(ray, at, at + way * length, self.name(before), what, event, None, None, n1, None, None, left)

    def _book(self, ray, at, end, before, j, event, cos_i, cos_t, n1, n2, reflectance, left):
        beyond = None if cos_t is None else degrees(acos(min(cos_t, 1.0)))
        angle = degrees(acos(min(max(float(cos_i), 0.0), 1.0)))
        self._add(ray, at, end, self.name(before), self.name(j), event, angle, beyond, n1, n2, reflectance, left)

    def _add(self, ray, at, end, medium, what, event, angle, beyond, n1, n2, reflectance, left):
        length = float(np.linalg.norm(end - at)) * 100
        places = [[round(float(v) * 100, 6) for v in p] for p in (at, end)]
        ray.steps.append(Step(*places, length, medium, what, event, angle, beyond, n1, n2, reflectance, left))
        ray.left = left


def _name(placed, the_set: Set) -> str:
    """What an object is called, with its part when it has several."""
    one = next(o for o in the_set.stage.objects if o.id == placed.object_id)
    alone = sum(p.object_id == placed.object_id for p in the_set.standing.placed) == 1
    return (one.name or one.id).lower() + ("" if alone else f", {placed.part}")


def _without(within: list[int], j: int) -> list[int]:
    at = within.index(j) if j in within else None
    return [one for i, one in enumerate(within) if i != at]


FAN_NM = (430.0, 470.0, 510.0, 550.0, 587.56, 620.0, 660.0)


def fan_of(the_set: Set, origin, direction) -> list[Ray]:
    """The stronger branch at seven wavelengths; one ray when nothing disperses."""
    follower = Follower(the_set)
    lines = FAN_NM if the_set.splits else (587.56,)
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
