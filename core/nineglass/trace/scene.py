"""A material on a stage, as the arrays that the kernels read."""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np

from nineglass.catalogue import FLOORS, LAMPS, SURROUNDS
from nineglass.documents.model import Material, Part, Stage, Surround
from nineglass.network.compile import Compiled
from nineglass.network.ops import INPUTS
from nineglass.optics.conductor import mirror_albedo_table
from nineglass.optics.diffuse import diffuse_tables
from nineglass.optics.energy import energy_tables
from nineglass.spectra.blackbody import blackbody
from nineglass.spectra.light import light_basis
from nineglass.spectra.observer import D65
from nineglass.spectra.upsampling import coefficients_of, sigmoid_spectrum, table
from nineglass.surrounds.directions import directions
from nineglass.trace.forest import FLOOR_BIT, Forest, Standing, Things, forest_of, pieces_of, seen_bits, standing_of
from nineglass.trace.lamps import Lamps
from nineglass.trace.matter import LAYERED, Matters, Table, sensor_response, table_of
from nineglass.trace.sensor import Lens, Sensor, axes_of, lens_of, sensor
from nineglass.trace.start import Start, start_of
from nineglass.trace.surround import Around, around_of

BLEND_HEIGHT = 256
NO_DIFFUSE = np.zeros((1, 1, 1), np.float32)
"""In place of the tables of matt bands, which take a while to make, where there are none."""


class Ground(NamedTuple):
    """The floor; with present = 0 there is none."""

    present: int
    height: np.float32
    squares: int
    square_size: np.float32


class Scene(NamedTuple):
    """All that the kernels need to know."""

    forest: Forest
    things: Things
    matters: Matters
    ground: Ground
    lamps: Lamps
    spectra: np.ndarray  # (rows, 401) float32: see `ask_lamps`
    light: Around
    reflections: Around
    camera: Around
    same_reflections: int  # reflections see what lights
    fast_shadows: int
    albedo: np.ndarray
    mean_missing: np.ndarray
    mirror_albedo: np.ndarray
    diffuse: np.ndarray
    time: np.float32  # s
    camera_axes: np.ndarray  # (9,) float32: see `sensor.axes_of`
    clearance: np.float32  # m: how far a new ray starts from the surface


@dataclass(frozen=True)
class Set:
    """A scene with what is needed beside the kernels."""

    scene: Scene
    stage: Stage
    standing: Standing
    materials: list[Material]
    table: Table
    lens: Lens
    start: Start
    sensor: Sensor
    sigmoids: np.ndarray
    exposure: float
    cut_out: bool

    @property
    def compiled(self) -> Compiled:
        """The program of the material on the bench."""
        return self.table.compiled[0]

    @property
    def has_layers(self) -> bool:
        return bool((self.scene.matters.surface == LAYERED).any())

    @property
    def has_splits(self) -> bool:
        return bool((self.scene.matters.split >= 0).any())

    def through(self, lens: Lens) -> "Set":
        """The same seen through another lens."""
        return replace(self, lens=lens)

    @property
    def splits(self) -> bool:
        """Whether paths may part by wavelength."""
        return bool(self.scene.matters.dispersive.any())


def filled(part: Part, kinds) -> dict:
    """All dials of a part, with defaults for what is not given."""
    return kinds.kinds[part.kind].defaults() | part.dials


def build_set(material: Material, stage: Stage, aspect: float = 1.0, *, uniform: bool = False) -> Set:
    """The scene of two checked documents. aspect: width over height of the picture. uniform: draw directions of a
    lighting picture all alike (for comparison)."""
    standing = standing_of(stage)
    materials, rows = _materials(material, standing)
    with ThreadPoolExecutor(1) as beside:
        growing = beside.submit(forest_of, stage, standing, rows)
        table_of_all = table_of(materials, sensor_response())
        forest, things = growing.result()
    if (table_of_all.matters.inputs[:, INPUTS.index("piece")] >= 0).any():
        forest = forest._replace(pieces=pieces_of(stage, standing))
    around, spectra = _surround(stage.surround, uniform)
    ground, ground_spectra = _ground(stage.floor, standing.floor)
    lamps, glow = _lamps(stage)
    lens, exposure = lens_of(stage.camera, aspect)
    scene = Scene(
        forest=forest,
        things=things,
        matters=table_of_all.matters,
        ground=ground,
        lamps=lamps,
        spectra=np.stack([*spectra, *ground_spectra, *light_basis(), *glow]).astype(np.float32),
        light=around[0],
        reflections=around[1],
        camera=around[2],
        same_reflections=int(stage.surround.reflections is None),
        fast_shadows=int(stage.fast_shadows),
        albedo=energy_tables()[0],
        mean_missing=energy_tables()[1],
        mirror_albedo=mirror_albedo_table(),
        diffuse=diffuse_tables() if (table_of_all.matters.surface == LAYERED).any() else NO_DIFFUSE,
        time=np.float32(stage.time),
        camera_axes=axes_of(lens),
        clearance=np.float32(3e-6 * max(standing.size, 1e-4)),
    )
    start = start_of(scene, lens)
    return Set(
        scene,
        stage,
        standing,
        materials,
        table_of_all,
        lens,
        start,
        sensor(),
        table(),
        exposure,
        stage.surround.cut_out,
    )


def _materials(material: Material, standing: Standing) -> tuple[list[Material], list[int]]:
    """All different materials, that on the bench first, and the row of each thing's."""
    materials, rows, known = [material], [], {}
    for placed in standing.placed:
        if placed.material is None:
            rows.append(0)
            continue
        key = placed.material.model_dump_json()
        if key not in known:
            known[key] = len(materials)
            materials.append(placed.material)
        rows.append(known[key])
    return materials, rows


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


def _surround(surround: Surround, uniform: bool) -> tuple[list[Around], list[np.ndarray]]:
    """What lights, what reflections see, what the camera sees; and the two spectra of each."""
    around, spectra = [], []
    for i, part in enumerate(
        (surround.light, surround.reflections or surround.light, surround.camera or surround.light)
    ):
        picture = picture_of(surround, part)
        below, above, softness = (0, 0, 0), (0, 0, 0), 1.0
        if picture is None:
            below, above, softness = SURROUNDS.kinds[part.kind].make().ends(filled(part, SURROUNDS))
        spectra += [glow_spectrum(below), glow_spectrum(above)]
        around.append(around_of(2 * i, 2 * i + 1, softness, picture, uniform))
    return around, spectra


def _ground(floor: Part | None, height: float):
    if floor is None:
        nothing = np.zeros_like(D65)
        return Ground(0, np.float32(0), 0, np.float32(1)), [nothing, nothing]
    dials = filled(floor, FLOORS)
    spectra = [sigmoid_spectrum(coefficients_of(*dials[name])) for name in ("color", "second_color")]
    squares = int(dials["pattern"] == "squares")
    return Ground(1, np.float32(height), squares, np.float32(dials["square_size"] / 100)), spectra


def _lamps(stage: Stage) -> tuple[Lamps, list[np.ndarray]]:
    """The rows of all lamps that are on, and their spectra."""
    on = [lamp for lamp in stage.lamps if lamp.on]
    lights = [LAMPS.kinds[lamp.kind].make().light(filled(lamp, LAMPS)) for lamp in on]
    bits = {one.id: 1 << i for i, one in enumerate(stage.objects)} | {"floor": FLOOR_BIT}

    def rows(name):
        return np.array([getattr(light, name) for light in lights], np.float32).reshape(-1, 3)

    across, up = rows("across"), rows("up")
    normal = np.cross(up, across)
    normal = normal / np.maximum(np.linalg.norm(normal, axis=1), 1e-20)[:, None]
    lamps = Lamps(
        shape=np.array([light.shape for light in lights], np.int32),
        centre=rows("centre"),
        across=across,
        up=up,
        normal=normal.astype(np.float32),
        spread=np.array([light.spread for light in lights], np.float32),
        seen=np.array([seen_bits(lamp.seen) for lamp in on], np.int32),
        lights=np.array(
            [sum(bits[name] for name in (bits if lamp.lights is None else lamp.lights)) for lamp in on], np.int32
        ),
        clear=np.array([not lamp.seen.shadows for lamp in on], np.int32),
    )
    glow = [
        light.radiance * blackbody(light.kelvin) * sigmoid_spectrum(coefficients_of(*light.color)) for light in lights
    ]
    return lamps, glow
