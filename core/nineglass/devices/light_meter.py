"""A light meter that is held at a place of a stage and reads the light that falls on it: the lamps and the surround, with nothing in the way.

Illuminance is luminance times the cosine over the half of all directions before the head (CIE S 017, 17-21-060). 1 in the picture at exposure 0 is
100 cd/m2, as it is told to other programs.
"""

from collections.abc import Callable
from dataclasses import dataclass
from math import pi, sin

import numpy as np

from nineglass.catalogue import LAMPS, SURROUNDS
from nineglass.describe import choice, dial
from nineglass.devices import DEVICES, ON_THE_STAGE
from nineglass.documents.model import Stage
from nineglass.lamps.light import BEAM_STEPS, DISC, POINT, SPHERE, SUN, TURN_STEPS, Light, light_of
from nineglass.spectra.lamp_light import white_of
from nineglass.spectra.observer import CMF, D65, WAVELENGTHS_NM, xyz_of
from nineglass.spectra.white import WHITE_NITS
from nineglass.surrounds.directions import all_around, directions

STEPS = 32
"""Across and up a lamp, over which its light is summed."""

NOISE = 0.003
"""Of a value, one standard deviation."""

WAYS = {
    "up": (0, 1, 0),
    "to the front": (0, 0, 1),
    "to the back": (0, 0, -1),
    "to the left": (-1, 0, 0),
    "to the right": (1, 0, 0),
}


@dataclass(frozen=True)
class Lit:
    """What lights a stage: lamps about its middle (m), and a picture of all directions (h, w, 3).

    color: the spectrum (401,) of a colour, as `spectra.upsampling.color_spectrum` has it, which needs kernels and this room has none.
    """

    lamps: list[Light]
    around: np.ndarray
    color: Callable[..., np.ndarray]


def lit_of(stage: Stage, color: Callable[..., np.ndarray]) -> Lit:
    """Its lamps that are on, and its surround."""
    lamps = [light_of(LAMPS.kinds[one.kind], _dials(LAMPS, one)) for one in stage.lamps if one.on]
    parts = [(stage.surround.light, 1 - stage.surround.blend if stage.surround.second else 1.0)]
    if stage.surround.second:
        parts.append((stage.surround.second, stage.surround.blend))
    pictures = [all_around(_made(SURROUNDS, one), _dials(SURROUNDS, one)) * share for one, share in parts if share > 0]
    return Lit(lamps, pictures[0] if len(pictures) == 1 else _added(*pictures), color)


def _made(kinds, part):
    return kinds.kinds[part.kind].make()


def _dials(kinds, part) -> dict:
    return kinds.kinds[part.kind].defaults() | part.dials


def _added(one: np.ndarray, other: np.ndarray) -> np.ndarray:
    """Two pictures of all directions as one, as large as the larger."""
    small, large = sorted((one, other), key=len)
    rows, columns = (np.arange(large.shape[k]) * small.shape[k] // large.shape[k] for k in (0, 1))
    return large + small[rows][:, columns]


@DEVICES.kind(title="Light meter", family=ON_THE_STAGE)
class LightMeter:
    """Reads the light that falls on a place of the stage: how much (lux) and how warm (kelvin). Nothing stands in its way, and nothing throws light back."""

    aside = dial(0, -50, 50, hard=(-1e5, 1e5), unit="cm", ends=("left", "right"), help="From the middle of the stage.")
    raised = dial(0, -50, 50, hard=(-1e5, 1e5), unit="cm", ends=("lower", "higher"))
    ahead = dial(0, -50, 50, hard=(-1e5, 1e5), unit="cm", ends=("back", "front"))
    head = choice(*WAYS, label="Its head looks")

    def __init__(self, lit: Lit | None = None):
        self.lit = lit

    def places(self, dials: dict) -> np.ndarray:
        return WAVELENGTHS_NM.astype(float)

    def seconds(self, dials: dict) -> float:
        return 0.0

    def read(self, dials: dict, count: int, seed: int) -> np.ndarray:
        """Spectral irradiance, scaled so that its luminous sum is the illuminance in lux."""
        if self.lit is None:
            return np.zeros(count)
        at = np.array([dials[name] / 100 for name in ("aside", "raised", "ahead")])
        head = np.array(WAYS[dials["head"]], float)
        lamps = (
            irradiance(one, at, head) * white_of(one.kelvin, one.spectrum) * self.lit.color(one.color)
            for one in self.lit.lamps
        )
        found = sum(lamps, np.zeros(len(WAVELENGTHS_NM))) + _of_surround(self.lit, head)
        noise = 1 + NOISE * np.random.default_rng(seed).normal(size=len(found))
        return (WHITE_NITS * found * noise)[:count]


def lux(spectrum: np.ndarray) -> float:
    """Of what `LightMeter.read` gives."""
    return float(spectrum @ CMF[:, 1])


def kelvin(spectrum: np.ndarray) -> float | None:
    """Correlated colour temperature. Source: McCamy 1992, Color Research and Application 17, 142; good to 2 K from 2856 to 6500 K. None in the dark."""
    x, y, z = xyz_of(spectrum)
    if x + y + z <= 0:
        return None
    n = (x / (x + y + z) - 0.3320) / (0.1858 - y / (x + y + z))
    return float(449 * n**3 + 3525 * n**2 + 6823.3 * n + 5520.33)


def irradiance(light: Light, at: np.ndarray, head: np.ndarray) -> float:
    """Of a place (m) with the normal `head`, in the unit of the picture times sr; `Light.radiance` is its light."""
    if light.shape == SUN:
        return light.radiance * pi * sin(light.spread) ** 2 * max(float(head @ light.centre), 0.0)
    if light.shape == POINT:
        away = light.centre - at
        far = float(np.linalg.norm(away))
        return light.radiance * max(float(head @ away) / far, 0.0) / far**2
    points, normals, areas = _surface(light, at)
    away = points - at
    far = np.linalg.norm(away, axis=1)
    toward = away / far[:, None]
    seen = np.maximum(toward @ head, 0) * np.maximum(-(toward * normals).sum(axis=1), 0)
    return float((light.radiance * _beam(light, -toward) * seen / far**2 * areas).sum())


def _surface(light: Light, at: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(points, normals, areas) of what glows of a lamp with size; of a ball the disc that is seen from a place."""
    across, up = light.across, light.up
    if light.shape == SPHERE:
        away = at - light.centre
        far = float(np.linalg.norm(away))
        radius = light.spread * np.sqrt(max(1 - (light.spread / far) ** 2, 0.0))
        centre = light.centre + away / far * light.spread**2 / far
        side = np.cross(away, [0.0, 1.0, 0.0] if abs(away[1]) < 0.9 * far else [1.0, 0.0, 0.0])
        across = side / np.linalg.norm(side) * radius
        return _disc(centre, across, np.cross(away / far, across), away / far)
    normal = np.cross(across, up)
    normal = normal / np.linalg.norm(normal)
    normal = normal if normal @ light.axis > 0 else -normal
    if light.shape == DISC:
        return _disc(light.centre, across, up, normal)
    steps = (np.arange(STEPS) + 0.5) / STEPS * 2 - 1
    u, v = (one.ravel() for one in np.meshgrid(steps, steps))
    points = light.centre + u[:, None] * across + v[:, None] * up
    area = 4 * np.linalg.norm(np.cross(across, up)) / STEPS**2
    return points, np.broadcast_to(normal, points.shape), np.full(len(points), area)


def _disc(centre, across, up, normal) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Rings of equal width, each in as many pieces."""
    r, turn = (np.arange(STEPS) + 0.5) / STEPS, (np.arange(2 * STEPS) + 0.5) / (2 * STEPS) * 2 * pi
    r, turn = (one.ravel() for one in np.meshgrid(r, turn))
    points = centre + (r * np.cos(turn))[:, None] * across + (r * np.sin(turn))[:, None] * up
    areas = r * np.linalg.norm(np.cross(across, up)) * pi / STEPS**2
    return points, np.broadcast_to(normal, points.shape), areas


def _beam(light: Light, leaves: np.ndarray) -> np.ndarray:
    """The share of its glow that leaves in unit directions."""
    if light.beam is None:
        return np.ones(len(leaves))
    angle = np.degrees(np.arccos(np.clip(leaves @ light.axis, -1, 1)))
    other = np.cross(light.axis, light.side)
    turn = np.degrees(np.arctan2(leaves @ other, leaves @ light.side)) % 360
    rows = np.minimum(angle.round().astype(int), BEAM_STEPS - 1)
    return light.beam[rows, np.minimum((turn / 5).round().astype(int), TURN_STEPS - 1)]


def _of_surround(lit: Lit, head: np.ndarray) -> np.ndarray:
    """(401,) spectral irradiance of a picture of all directions; colours stand for what D65 makes of them."""
    height, width = lit.around.shape[:2]
    ways = directions(height, width)
    solid = np.sin((np.arange(height) + 0.5) / height * pi) * (pi / height) * (2 * pi / width)
    rgb = (lit.around * np.maximum(ways @ head, 0)[..., None] * solid[:, None, None]).sum(axis=(0, 1))
    most = float(rgb.max())
    return lit.color(rgb / most) * most * D65 if most > 0 else np.zeros(len(D65))
