"""A material on a stage, as the arrays that the kernels read."""

import json
from dataclasses import dataclass
from functools import lru_cache
from math import cos, radians, sin
from typing import NamedTuple

import numpy as np

from nineglass.catalogue import CAMERAS, FLOORS, FORMS, LAMPS, SURROUNDS
from nineglass.documents.model import Material, Part, Stage
from nineglass.network.compile import Compiled, compile_network
from nineglass.network.ops import INPUTS
from nineglass.optics.energy import energy_tables
from nineglass.spectra.blackbody import blackbody
from nineglass.spectra.observer import CMF, D65, HIGH_NM, LOW_NM, WAVELENGTHS_NM, XYZ_TO_RGB
from nineglass.spectra.upsampling import coefficients_of, sigmoid_spectrum, table
from nineglass.trace.tree import Tree, build_tree

LIGHT_BELOW, LIGHT_ABOVE, SEEN_BELOW, SEEN_ABOVE, FLOOR_FIRST, FLOOR_SECOND, LAMPS_FROM = range(7)
"""Rows of `Scene.spectra`."""

IOR, ROUGHNESS, RED, GREEN, BLUE, DEPTH, C0, C1, C2 = range(9)
"""Entries of `Scene.dials`: the register of each dial, and of the coefficients of the transmission colour."""

CAMERA_STEPS = 512


class Ground(NamedTuple):
    """The floor; with present = 0 there is none."""

    present: int
    height: np.float32
    squares: int
    square_size: np.float32


class Lamps(NamedTuple):
    """Rectangles, one row each."""

    corner: np.ndarray  # (n, 3)
    across: np.ndarray  # (n, 3)
    up: np.ndarray  # (n, 3)
    normal: np.ndarray  # (n, 3) the side that glows
    area: np.ndarray  # (n,)
    seen: np.ndarray  # (n,) int32: by the camera itself


class Lens(NamedTuple):
    """The camera. right and up reach from the middle of the frame to its edges at distance 1."""

    eye: np.ndarray  # (3,)
    forward: np.ndarray
    right: np.ndarray
    up: np.ndarray
    radius: np.float32
    focus: np.float32


class Sensor(NamedTuple):
    """How wavelengths are drawn and weighed."""

    inverse: np.ndarray  # (513,) wavelength at even steps of probability
    response: np.ndarray  # (3, 401) linear Rec.709 response per unit of radiance


class Scene(NamedTuple):
    """All that the kernels need to know."""

    tree: Tree
    corner_normals: np.ndarray  # (m, 9) float32: normals at the corners of each triangle of the tree
    turn: np.ndarray  # (2,) float32: cosine and sine of the form's turn about the vertical
    ground: Ground
    lamps: Lamps
    spectra: np.ndarray  # (rows, 401) float32
    softness: np.ndarray  # (2,) float32: of the surround for light and for the camera
    lens: Lens
    sensor: Sensor
    albedo: np.ndarray
    mean_missing: np.ndarray
    sigmoids: np.ndarray
    operations: np.ndarray  # (k, 5) int32
    inputs: np.ndarray  # (4,) int32: register of each input, -1 when not read
    dials: np.ndarray  # (9,) int32
    color_varies: int
    clearance: np.float32  # m: how far a new ray starts from the surface


@dataclass(frozen=True)
class Set:
    """A scene with what is needed beside the kernels."""

    scene: Scene
    compiled: Compiled
    registers: int
    constants: list[tuple[int, float]]
    exposure: float


@lru_cache(8)
def _form(kind: str, dials: str):
    about = FORMS.kinds[kind]
    mesh = about.make().mesh(about.defaults() | json.loads(dials))
    tree = build_tree(mesh)
    corner_normals = np.ascontiguousarray(mesh.normals[mesh.faces[tree.faces]].reshape(-1, 9))
    return mesh, tree, corner_normals


def form_of(stage: Stage):
    """(mesh, tree, corner normals) of a stage's form; the last few are kept."""
    return _form(stage.form.kind, json.dumps(stage.form.dials, sort_keys=True))


def filled(part: Part, kinds) -> dict:
    """All dials of a part, with defaults for what is not given."""
    return kinds.kinds[part.kind].defaults() | part.dials


def build_set(material: Material, stage: Stage, aspect: float = 1.0) -> Set:
    """The scene of two checked documents. aspect: width over height of the picture."""
    mesh, tree, corner_normals = form_of(stage)
    low, high = mesh.bounds()
    size = float(np.linalg.norm(high - low))
    panels = [LAMPS.kinds[lamp.kind].make().panel(filled(lamp, LAMPS)) for lamp in stage.lamps]
    spectra, softness = _surround(stage)
    ground, ground_spectra = _ground(stage.floor, float(low[1]))
    glow = [panel.radiance * blackbody(panel.kelvin) for panel in panels]
    lens, exposure = _lens(stage.camera, aspect)
    compiled = compile_network(material)
    dials, constants, registers, varies = _dial_registers(compiled)
    angle = radians(stage.turn)
    scene = Scene(
        tree=tree,
        corner_normals=corner_normals,
        turn=np.array([cos(angle), sin(angle)], np.float32),
        ground=ground,
        lamps=_lamps(panels),
        spectra=np.stack([*spectra, *ground_spectra, *glow]).astype(np.float32),
        softness=np.array(softness, np.float32),
        lens=lens,
        sensor=sensor(),
        albedo=energy_tables()[0],
        mean_missing=energy_tables()[1],
        sigmoids=table(),
        operations=compiled.program.operations,
        inputs=np.array([compiled.program.inputs.get(name, -1) for name in INPUTS], np.int32),
        dials=dials,
        color_varies=int(varies),
        clearance=np.float32(3e-6 * size),
    )
    return Set(scene, compiled, registers, constants, exposure)


def _dial_registers(compiled: Compiled):
    color = compiled.dials["interior", "transmission_color"]
    registers = compiled.program.registers
    coefficients = [registers, registers + 1, registers + 2]
    constants = list(compiled.program.constants)
    known = compiled.constant("interior", "transmission_color")
    if known is not None:
        constants += zip(coefficients, coefficients_of(*np.clip(known, 0, 1)), strict=True)
    dials = [
        compiled.dials["interface", "specular_ior"],
        compiled.dials["interface", "specular_roughness"],
        *color,
        compiled.dials["interior", "transmission_depth"],
        *coefficients,
    ]
    return np.array(dials, np.int32), constants, registers + 3, known is None


def glow_spectrum(rgb) -> np.ndarray:
    """(401,) radiance of a colour as a light: its smooth spectrum under D65, any strength."""
    strength = max(*rgb, 1e-9)
    peak = min(strength, 1.0)
    unit = sigmoid_spectrum(coefficients_of(*(float(v) / strength * peak for v in rgb)))
    return unit * D65 * (strength / peak) if strength > 1e-8 else np.zeros_like(D65)


def _surround(stage: Stage):
    spectra, softness = [], []
    for part in (stage.surround.light, stage.surround.camera or stage.surround.light):
        below, above, soft = SURROUNDS.kinds[part.kind].make().ends(filled(part, SURROUNDS))
        spectra += [glow_spectrum(below), glow_spectrum(above)]
        softness.append(soft)
    return spectra, softness


def _ground(floor: Part | None, height: float):
    if floor is None:
        nothing = np.zeros_like(D65)
        return Ground(0, np.float32(0), 0, np.float32(1)), [nothing, nothing]
    dials = filled(floor, FLOORS)
    spectra = [sigmoid_spectrum(coefficients_of(*dials[name])) for name in ("color", "second_color")]
    squares = int(dials["pattern"] == "squares")
    return Ground(1, np.float32(height), squares, np.float32(dials["square_size"] / 100)), spectra


def _lamps(panels) -> Lamps:
    def rows(name):
        return np.array([getattr(panel, name) for panel in panels], np.float32).reshape(-1, 3)

    across, up = rows("across"), rows("up")
    normal = np.cross(up, across)
    area = np.linalg.norm(normal, axis=1)
    normal = normal / np.maximum(area, 1e-20)[:, None]
    seen = np.array([panel.seen for panel in panels], np.int32)
    return Lamps(rows("corner"), across, up, normal.astype(np.float32), area.astype(np.float32), seen)


def _lens(camera: Part, aspect: float) -> tuple[Lens, float]:
    dials = filled(camera, CAMERAS)
    azimuth, elevation = radians(dials["azimuth"]), radians(dials["elevation"])
    toward = np.array([sin(azimuth) * cos(elevation), sin(elevation), cos(azimuth) * cos(elevation)])
    distance = dials["distance"] / 100
    right = np.array([cos(azimuth), 0.0, -sin(azimuth)])
    up = np.cross(toward, right)
    half = 18 / dials["focal_length"]
    radius = dials["focal_length"] / 1000 / dials["f_stop"] / 2
    return (
        Lens(
            eye=(toward * distance).astype(np.float32),
            forward=(-toward).astype(np.float32),
            right=(right * half).astype(np.float32),
            up=(up * half / aspect).astype(np.float32),
            radius=np.float32(radius),
            focus=np.float32(distance),
        ),
        float(dials["exposure"]),
    )


@lru_cache(1)
def sensor() -> Sensor:
    """Wavelengths are drawn as a picture of white light needs them: by D65 times the observer, and a little everywhere."""
    wanted = D65 * CMF.sum(axis=1)
    density = wanted / wanted.sum() + 0.1 / len(wanted)
    cumulative = np.concatenate([[0], np.cumsum((density[1:] + density[:-1]) / 2)])
    inverse = np.interp(np.linspace(0, 1, CAMERA_STEPS + 1), cumulative / cumulative[-1], WAVELENGTHS_NM)
    inverse[0], inverse[-1] = LOW_NM, HIGH_NM
    response = XYZ_TO_RGB @ CMF.T
    return Sensor(inverse.astype(np.float32), np.ascontiguousarray(response, np.float32))
