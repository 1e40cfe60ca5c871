"""A material on a stage, as the arrays that the kernels read."""

from dataclasses import dataclass, replace
from functools import lru_cache
from math import cos, sin
from typing import NamedTuple

import numpy as np

from nineglass.catalogue import FLOORS, LAMPS, SURROUNDS
from nineglass.documents.model import Material, Part, Stage, Surround
from nineglass.lamps.light import light_of
from nineglass.network.compile import Compiled
from nineglass.network.ops import INPUTS
from nineglass.spectra.lamp_light import white_of
from nineglass.spectra.light import light_basis
from nineglass.spectra.observer import CMF, D65
from nineglass.spectra.upsampling import coefficients_of, color_spectrum, sigmoid_spectrum, table
from nineglass.surrounds.directions import directions
from nineglass.trace.geometry.embree import StageRays
from nineglass.trace.geometry.standing import (
    FLOOR_BIT,
    Cover,
    Geometry,
    Standing,
    count_of,
    geometry_of,
    pieces_of,
    seen_bits,
    standing_of,
    strand_rays,
)
from nineglass.trace.geometry.strands import StrandRows
from nineglass.trace.growth import STAND_IN, check_spans, covers_of, is_fibre, share_at_hand
from nineglass.trace.light.ask import LAMPS_FROM
from nineglass.trace.light.beams import EVENLY
from nineglass.trace.light.glowing import Glowing, glowing_of
from nineglass.trace.light.lamps import Lamps
from nineglass.trace.light.surround import Around, around_of
from nineglass.trace.light.throw import Throwing, throwing_of
from nineglass.trace.matter import Laid, Sides, Table, lay_out, table_of
from nineglass.trace.media.clear import Media
from nineglass.trace.media.fields import fields_of
from nineglass.trace.media.start import Start, start_of
from nineglass.trace.media.varying import Fields
from nineglass.trace.sensor import Lens, Sensor, axes_of, lens_of, sensor

BLEND_HEIGHT = 256


class Ground(NamedTuple):
    """The floor; with present = 0 there is none."""

    present: int
    height: np.float32
    squares: int
    square_size: np.float32


class Scene(NamedTuple):
    """All that every kernel may need to know. What only one family needs are that family's rows."""

    geometry: Geometry
    sides: Sides
    media: Media
    fields: Fields
    ground: Ground
    lamps: Lamps
    glowing: Glowing
    throwing: Throwing
    spectra: np.ndarray  # (rows, 401) float32: see `light.ask`
    light: Around
    reflections: Around
    camera: Around
    same_reflections: int  # reflections see what lights
    fast_shadows: int
    cut_out: int  # the picture stays empty where the camera sees past everything
    lets_through: int  # and what it sees past through clear matter is kept apart
    time: np.float32  # s
    camera_axes: np.ndarray  # (9,) float32: see `sensor.axes_of`
    lens: Lens


@dataclass(frozen=True)
class Lighting:
    """The surround and the lamps of a stage, as the kernels read them."""

    lamps: Lamps
    around: list[Around]
    spectra: np.ndarray
    floor: float
    """Height (m) above which light is found; -inf where there is none, or it is seen from below."""


@dataclass(frozen=True)
class Set:
    """A scene with what is needed beside the kernels."""

    scene: Scene
    stage: Stage
    standing: Standing
    rays: StageRays
    """The owner of the scene's rays."""
    materials: list[Material]
    rows: list[int]
    """Of each part that stands, the row of its material."""
    strands_share: float
    """Of the strands that are to stand."""
    covers: list[Cover | None]
    """Of each part that stands, how much of its strands does."""
    table: Table
    lighting: Lighting
    lens: Lens
    start: Start
    sensor: Sensor
    sigmoids: np.ndarray
    exposure: float

    @property
    def compiled(self) -> Compiled:
        """The program of the material on the bench."""
        return self.table.laid[0].compiled

    @property
    def strands(self) -> tuple[int, int] | None:
        """(how many strands stand, of how many); None where there are none."""
        sown = [placed.sown for placed in self.standing.placed if placed.sown is not None]
        return (len(self.scene.geometry.strands.roots), sum(map(count_of, sown))) if sown else None

    @property
    def grown(self) -> dict[str, StrandRows]:
        """The strands that stand, by their object, in the axes of their skin."""
        return {
            placed.object_id: strand_rays(placed.sown, self.strands_share, cover)[1]
            for placed, cover in zip(self.standing.placed, self.covers, strict=True)
            if placed.sown is not None
        }

    def grow(self) -> None:
        """Have all strands grow, so that they are at hand for the next set. Takes seconds."""
        for placed, cover in zip(self.standing.placed, self.covers, strict=True):
            if placed.sown is not None:
                strand_rays(placed.sown, 1.0, cover)

    @property
    def cut_out(self) -> bool:
        return bool(self.scene.cut_out)

    def through(self, lens: Lens) -> "Set":
        """The same seen through another lens."""
        return replace(self, lens=lens, scene=self.scene._replace(lens=lens))

    def by_chance(self) -> "Set":
        """The same with all light found by the camera, none thrown from lamps."""
        return replace(self, scene=self.scene._replace(throwing=self.scene.throwing._replace(on=0)))

    @property
    def throws(self) -> bool:
        """Whether light is thrown from lamps."""
        return bool(self.scene.throwing.on)

    @property
    def splits(self) -> bool:
        """Whether paths may part by wavelength."""
        return bool(self.scene.media.dispersive.any())


def filled(part: Part, kinds) -> dict:
    """All dials of a part, with defaults for what is not given."""
    return kinds.kinds[part.kind].defaults() | part.dials


def build_set(
    material: Material,
    stage: Stage,
    aspect: float = 1.0,
    *,
    uniform: bool = False,
    waits: bool = True,
    before: Set | None = None,
) -> Set:
    """The scene of two checked documents. aspect: width over height of the picture. uniform: draw directions of a
    lighting picture all alike (for comparison). waits: whether strands that have not grown yet are waited for; otherwise few of
    them stand. before: a set of which what has not changed is kept."""
    same_objects = before is not None and _stands_alike(stage, before.stage)
    if not same_objects:
        check_spans(stage)
    standing = before.standing if same_objects else standing_of(stage)
    if same_objects and is_fibre(material) == is_fibre(before.materials[0]):
        materials, rows = [material, *before.materials[1:]], before.rows
    else:
        materials, rows = _materials(material, standing)
    known = {id(one.material): one for one in before.table.laid} if before else {}
    bench_before = before.table.laid[0] if before else None
    laid = [known.get(id(one)) or lay_out(one, None if k else bench_before) for k, one in enumerate(materials)]
    table_of_all = before.table if before and _same(laid, before.table.laid) else table_of(laid)
    lens, exposure = lens_of(stage.camera, aspect)
    covers = covers_of(stage, standing, rows, laid, axes_of(lens))
    strands_share = 1.0 if waits else share_at_hand(standing, covers)
    grown_alike = before is not None and (before.strands_share, before.covers) == (strands_share, covers)
    if same_objects and rows == before.rows and grown_alike:
        geometry, rays = before.scene.geometry, before.rays
    else:
        geometry, rays = geometry_of(stage, standing, rows, strands_share, covers)
    if (table_of_all.sides.inputs[:, INPUTS.index("piece")] >= 0).any() and geometry.triangles.pieces.size == 1:
        geometry = geometry._replace(triangles=geometry.triangles._replace(pieces=pieces_of(standing)))
    geometry = _fog_gives_way(geometry, standing, table_of_all.media.open[rows])
    lit_above = standing.floor if stage.floor and lens.eye[1] > standing.floor else -np.inf
    lit_alike = before is not None and before.lighting.floor == lit_above and _lit_alike(stage, before.stage)
    lighting = before.lighting if lit_alike else _lighting(stage, lit_above, uniform)
    scene = Scene(
        geometry=geometry,
        sides=table_of_all.sides,
        media=table_of_all.media,
        fields=fields_of(
            standing,
            rows,
            table_of_all.sides.split,
            laid,
            geometry.things,
            float(stage.time),
            axes_of(lens),
            lighting.lamps,
        ),
        ground=_ground(stage.floor, standing.floor),
        lamps=lighting.lamps,
        glowing=_glowing(before, standing, rows, laid),
        spectra=lighting.spectra,
        light=lighting.around[0],
        reflections=lighting.around[1],
        camera=lighting.around[2],
        same_reflections=int(stage.surround.reflections is None),
        fast_shadows=int(stage.fast_shadows),
        cut_out=int(stage.surround.cut_out),
        lets_through=int(stage.surround.cut_out and stage.surround.lets_through),
        time=np.float32(stage.time),
        camera_axes=axes_of(lens),
        lens=lens,
        throwing=_throwing(before, standing, rows, table_of_all, geometry, lighting, _throws_on(stage)),
    )
    scene = _one_layout(scene)
    start = start_of(standing, geometry.things, table_of_all.media, lens)
    return Set(
        scene=scene,
        stage=stage,
        standing=standing,
        rays=rays,
        materials=materials,
        rows=rows,
        strands_share=strands_share,
        covers=covers,
        table=table_of_all,
        lighting=lighting,
        lens=lens,
        start=start,
        sensor=sensor(),
        sigmoids=table(),
        exposure=exposure,
    )


def _one_layout(rows):
    """The same rows with every array in C order: arrays in another order are another type, and kernels would be compiled for them."""
    if isinstance(rows, np.ndarray):
        return np.ascontiguousarray(rows)
    return type(rows)(*map(_one_layout, rows)) if isinstance(rows, tuple) else rows


BOUNDED = 1000
"""Is added to the priority of what has a boundary: whatever lies in fog takes its place."""


def _fog_gives_way(geometry: Geometry, standing: Standing, is_open: np.ndarray) -> Geometry:
    """is_open: of each thing."""
    own = np.array([placed.priority for placed in standing.placed], np.int32)
    priority = np.where(is_open, own, own + BOUNDED).astype(np.int32)
    if (priority == geometry.things.priority).all():
        return geometry
    return geometry._replace(things=geometry.things._replace(priority=priority))


def _stands_alike(stage: Stage, other: Stage) -> bool:
    return stage is other or (stage.turn == other.turn and stage.objects == other.objects)


def _lit_alike(stage: Stage, other: Stage) -> bool:
    if stage is other:
        return True
    ids = [one.id for one in stage.objects] == [one.id for one in other.objects]
    return ids and (stage.surround, stage.lamps, stage.floor) == (other.surround, other.lamps, other.floor)


def _materials(material: Material, standing: Standing) -> tuple[list[Material], list[int]]:
    """All different materials, that on the bench first, and the row of each thing's. Strands that wear no fibre have a stand-in."""
    materials, rows, known = [material], [], {}
    for placed in standing.placed:
        worn = placed.material
        if placed.sown is not None and not is_fibre(worn or material):
            worn = STAND_IN
        if worn is None:
            rows.append(0)
            continue
        key = worn.model_dump_json()
        if key not in known:
            known[key] = len(materials)
            materials.append(worn)
        rows.append(known[key])
    return materials, rows


def _same(some: list, others: list) -> bool:
    return len(some) == len(others) and all(a is b for a, b in zip(some, others, strict=True))


def _glowing(before: Set | None, standing: Standing, rows: list[int], laid: list[Laid]) -> Glowing:
    glows = [one.glow for one in laid]
    same_places = before and before.standing is standing and before.rows == rows
    if same_places and _same(glows, [one.glow for one in before.table.laid]):
        return before.scene.glowing
    return glowing_of(standing, rows, {m: glow for m, glow in enumerate(glows) if glow is not None})


def _throws_on(stage: Stage) -> bool:
    return stage.caustics and not stage.fast_shadows


def _throwing(
    before: Set | None, standing: Standing, rows, table_of_all: Table, geometry, lighting, wanted
) -> Throwing:
    throws = table_of_all.media.throws
    if before and before.standing is standing and before.rows == rows and before.lighting is lighting:
        same = np.array_equal(before.scene.media.throws, throws) and _throws_on(before.stage) == wanted
        if same:
            return before.scene.throwing
    spectra = lighting.spectra[LAMPS_FROM:]
    about = (geometry.things, lighting.lamps, lighting.around[0], wanted, spectra)
    return throwing_of(standing, rows, table_of_all.media, *about)


def glow_spectrum(rgb) -> np.ndarray:
    """(401,) radiance of a colour as a light: its smooth spectrum under D65, any strength."""
    strength = max(*rgb, 1e-9)
    peak = min(strength, 1.0)
    unit = sigmoid_spectrum(coefficients_of(*(float(v) / strength * peak for v in rgb)))
    return unit * D65 * (strength / peak) if strength > 1e-8 else np.zeros_like(D65)


def picture_of(surround: Surround, part: Part) -> np.ndarray | None:
    """(h, w, 3) radiance over all directions of a part of the surround, or None when two colours say it."""
    mixed = part is surround.light and surround.second is not None and surround.blend > 0
    if not mixed:
        return _pictured(part)
    first, second = (_pictured(p, always=True) for p in (surround.light, surround.second))
    height = max(len(first), len(second))
    first, second = (_resized(p, height) for p in (first, second))
    return first + (second - first) * surround.blend


def _pictured(part: Part, always: bool = False) -> np.ndarray | None:
    about, dials = SURROUNDS.kinds[part.kind].make(), filled(part, SURROUNDS)
    if hasattr(about, "picture"):
        return about.picture(dials)
    if not always:
        return None
    below, above, softness = about.ends(dials)
    t = np.clip(0.5 + 0.5 * directions(BLEND_HEIGHT, 2 * BLEND_HEIGHT)[..., 1:2] / max(softness, 1e-3), 0, 1)
    return np.array(below) + (np.array(above) - np.array(below)) * (t * t * (3 - 2 * t))


def _resized(picture: np.ndarray, height: int) -> np.ndarray:
    rows = np.arange(height) * len(picture) // height
    columns = np.arange(2 * height) * picture.shape[1] // (2 * height)
    return picture[rows][:, columns]


def _lighting(stage: Stage, floor: float, uniform: bool) -> Lighting:
    around, spectra = _surround(stage.surround, uniform)
    lamps, glow = _lamps(stage, floor)
    rows = [*spectra, *_ground_spectra(stage.floor), *light_basis(), *glow]
    return Lighting(lamps, around, np.stack(rows).astype(np.float32), floor)


def _surround(surround: Surround, uniform: bool) -> tuple[list[Around], list[np.ndarray]]:
    """What lights, what reflections see, what the camera sees; and the two spectra of each."""
    around, spectra = [], []
    for i, part in enumerate(
        (surround.light, surround.reflections or surround.light, surround.camera or surround.light)
    ):
        if i > 0 and part is surround.light:
            around.append(around[0]._replace(below=2 * i, above=2 * i + 1))
            spectra += spectra[:2]
            continue
        picture = picture_of(surround, part)
        below, above, softness = (0, 0, 0), (0, 0, 0), 1.0
        if picture is None:
            below, above, softness = SURROUNDS.kinds[part.kind].make().ends(filled(part, SURROUNDS))
        spectra += [glow_spectrum(below), glow_spectrum(above)]
        around.append(around_of(2 * i, 2 * i + 1, softness, picture, uniform))
    return around, spectra


def _ground_spectra(floor: Part | None) -> list[np.ndarray]:
    if floor is None:
        return [np.zeros_like(D65)] * 2
    dials = filled(floor, FLOORS)
    return [color_spectrum(dials[name]) for name in ("color", "second_color")]


def _ground(floor: Part | None, height: float) -> Ground:
    if floor is None:
        return Ground(0, np.float32(0), 0, np.float32(1))
    dials = filled(floor, FLOORS)
    return Ground(1, np.float32(height), int(dials["pattern"] == "squares"), np.float32(dials["square_size"] / 100))


def lamp_glow(white: np.ndarray, color: tuple[float, ...]) -> np.ndarray:
    """(401,) the light of a lamp of radiance 1. white: before its filter."""
    return white * _filter_of(color)


@lru_cache(64)
def _filter_of(color: tuple[float, ...]) -> np.ndarray:
    return sigmoid_spectrum(coefficients_of(*color))


def _lamps(stage: Stage, floor: float) -> tuple[Lamps, list[np.ndarray]]:
    """The rows of all lamps that are on, as far as they stand above the floor, and their spectra."""
    on = [lamp for lamp in stage.lamps if lamp.on]
    lights = [light_of(LAMPS.kinds[lamp.kind], filled(lamp, LAMPS)) for lamp in on]
    bits = {one.id: 1 << i for i, one in enumerate(stage.objects)} | {"floor": FLOOR_BIT}
    glow = [light.radiance * lamp_glow(white_of(light.kelvin, light.spectrum), tuple(light.color)) for light in lights]
    beams = [light.beam for light in lights if light.beam is not None]
    numbers = np.cumsum([light.beam is not None for light in lights]) - 1
    sides, found = [_side_of(light) for light in lights], [light.above(floor) for light in lights]

    def rows(values):
        return np.array(values, np.float32).reshape(-1, 3)

    lamps = Lamps(
        shape=np.array([light.shape for light in lights], np.int32),
        centre=rows([light.centre for light in found]),
        across=rows([light.across for light in found]),
        up=rows([light.up for light in found]),
        normal=rows([light.axis for light in lights]),
        side=rows(sides),
        rise=rows([np.cross(light.axis, side) for light, side in zip(lights, sides, strict=True)]),
        spread=np.array([light.spread for light in lights], np.float32),
        strength=np.array([one @ CMF[:, 1] for one in glow], np.float32),
        seen=np.array([seen_bits(lamp.seen) for lamp in on], np.int32),
        lights=np.array(
            [sum(bits[name] for name in (bits if lamp.lights is None else lamp.lights)) for lamp in on], np.int32
        ),
        clear=np.array([not lamp.seen.shadows for lamp in on], np.int32),
        cone=np.array([cos(light.widest) for light in lights], np.float32),
        behind=np.array([light.radius / max(sin(light.widest), 1e-3) for light in lights], np.float32),
        beam=np.array(
            [k if light.beam is not None else -1 for light, k in zip(lights, numbers, strict=True)], np.int32
        ),
        beams=np.stack(beams) if beams else EVENLY,
    )
    return lamps, glow


def _side_of(light) -> np.ndarray:
    """A unit vector across the axis of a lamp, from where turns about it are counted."""
    if light.side is not None:
        return light.side
    length = float(np.linalg.norm(light.across))
    return light.across / length if length > 0 else np.zeros(3)
