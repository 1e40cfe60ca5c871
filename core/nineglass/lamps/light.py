"""What the tracer needs to know of a lamp, and the dials that all lamps share."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from math import cos, pi, radians, sin

import numpy as np

from nineglass.describe import choice, color_dial, curve, dial

RECTANGLE, DISC, SPHERE, POINT, SUN = range(5)
"""Outlines that the tracer knows."""

BEAM_STEPS, TURN_STEPS = 181, 73
"""Of a beam: angles to the axis from 0 to 180 degrees, and turns about it from 0 to 360 degrees."""

WITHIN_STEP = np.linspace(-0.45, 0.45, 10)
"""Degrees about each angle over which a beam is averaged, so that a hard edge lies where it should."""


@dataclass(frozen=True)
class Light:
    """A lamp about the middle of the stage.

    centre and the half edges across and up in m; radiance in the unit of the picture (for a point: intensity);
    spread: the radius of a sphere in m, or the angular radius of a sun in rad.
    """

    shape: int
    centre: np.ndarray
    across: np.ndarray
    up: np.ndarray
    radiance: float
    kelvin: float
    color: list[float]
    spread: float = 0.0
    side: np.ndarray | None = None
    """Of a lamp with a beam: a unit vector from where turns about its axis are counted; `across` where it has one."""
    spectrum: list | None = None
    """[nm, light of that wavelength over that of the strongest] in place of `kelvin`."""
    beam: np.ndarray | None = None
    """(181, 73): the glow by the angle to its axis and around it, over the glow that `radiance` says; None for even."""

    @property
    def axis(self) -> np.ndarray:
        """The way that it looks: towards the middle of the stage."""
        return -self.centre / max(float(np.linalg.norm(self.centre)), 1e-12)

    @property
    def widest(self) -> float:
        """The largest angle to its axis (rad) at which it gives light."""
        if self.beam is None:
            return pi
        lit = np.flatnonzero(self.beam.max(axis=1) > 0)
        return radians(min(float(lit[-1]) + 1, 180)) if len(lit) else 0.0

    @property
    def radius(self) -> float:
        """Of a ball about its middle that holds it, m; 0 of a sun."""
        if self.shape == SUN:
            return 0.0
        return max(float(np.hypot(np.linalg.norm(self.across), np.linalg.norm(self.up))), self.spread)

    def above(self, floor: float) -> "Light":
        """What of a rectangle stands above a height (m): what is below an opaque floor lights nothing, and is not to be asked. All of it
        where that is nothing, and of every other outline."""
        if self.shape != RECTANGLE or self.up[1] <= 0:
            return self
        lowest = (floor - self.centre[1]) / self.up[1]
        if not -1 < lowest < 1:
            return self
        middle = (lowest + 1) / 2
        return replace(self, centre=self.centre + self.up * middle, up=self.up * (1 - middle))


def beam_of(share: Callable[[np.ndarray, np.ndarray], np.ndarray], *, slanted: bool) -> np.ndarray:
    """(181, 73) a beam from its share over the angle to the axis and around it (rad), of mean 1, so that power stays power.

    slanted: the outline is flat, and looks smaller from the side.
    """
    angle, turn = np.radians(np.arange(BEAM_STEPS))[:, None], np.radians(np.arange(TURN_STEPS) * 5.0)[None, :]
    about = [np.clip(angle + np.radians(off), 0, pi) for off in WITHIN_STEP]
    beam = np.maximum(np.mean([share(one, turn) * np.ones((BEAM_STEPS, TURN_STEPS)) for one in about], axis=0), 0)
    seen = np.sin(angle) * (np.maximum(np.cos(angle), 0) if slanted else 1)
    total = (beam * seen)[:, :-1].mean() / np.broadcast_to(seen, beam.shape)[:, :-1].mean()
    return (beam / max(float(total), 1e-9)).astype(np.float32)


def with_beam(light: Light, beam: np.ndarray, roll_deg: float) -> Light:
    """A lamp whose glow depends on direction, turned about its axis."""
    toward = -light.axis
    level = np.array([toward[2], 0.0, -toward[0]])
    side = level / np.linalg.norm(level) if np.linalg.norm(level) > 1e-9 else np.array([1.0, 0.0, 0.0])
    roll = radians(roll_deg)
    return replace(light, beam=beam, side=side * cos(roll) + np.cross(toward, side) * sin(roll))


TEMPERATURE, CURVE = "temperature", "curve"

TUBE = (
    *((380, 0.02), (401, 0.05), (405, 0.45), (409, 0.05), (432, 0.08), (436, 0.9), (440, 0.08), (485, 0.12)),
    *((489, 0.3), (493, 0.08), (538, 0.15), (546, 1.0), (550, 0.2), (574, 0.2), (580, 0.5), (590, 0.35)),
    *((611, 0.75), (618, 0.3), (640, 0.12), (700, 0.04), (780, 0.02)),
)
"""A spectrum to begin with, in the manner of a fluorescent tube. Invented."""


class Colored:
    """Dials of every lamp: its colour."""

    light_from = choice(
        TEMPERATURE, CURVE, label="Light from", help="The warmth of a glowing body, or a spectrum as a meter gives it."
    )
    kelvin = dial(
        5600,
        1500,
        12000,
        hard=(500, 40000),
        unit="K",
        label="Temperature",
        ends=("candle", "blue sky"),
        when=("light_from", TEMPERATURE),
    )
    spectrum = curve(
        [list(point) for point in TUBE],
        label="Spectrum",
        quantity="relative",
        help="Light of each wavelength over that of the strongest; how bright the lamp is its power says.",
        when=("light_from", CURVE),
    )
    color = color_dial((1, 1, 1), label="Filter", help="A coloured sheet before the lamp; white for none.")


class Aimed(Colored):
    """Dials of a lamp that stands on a sphere around the middle of the stage and looks at it."""

    power = dial(
        4, 0.05, 500, hard=(0, 1e9), unit="W", scale="log", ends=("glow", "blaze"), help="All that it sends out."
    )
    azimuth = dial(
        140, -180, 180, hard=(-3600, 3600), unit="deg", ends=("left", "right"), help="0 is the front, 90 the right."
    )
    elevation = dial(20, -30, 90, hard=(-90, 90), unit="deg", ends=("below", "above"))
    distance = dial(60, 10, 500, hard=(1, 1000000), unit="cm", scale="log", ends=("close", "far"))


def light_of(kind, dials: dict) -> Light:
    """The light of a lamp. kind: its description; dials: all of them."""
    light = kind.make().light(dials)
    return replace(light, spectrum=dials["spectrum"]) if dials.get("light_from") == CURVE else light


def axes(dials) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Unit vectors of a lamp that looks at the middle: towards it, to its side, and up."""
    azimuth, elevation = radians(dials["azimuth"]), radians(dials["elevation"])
    toward = np.array([sin(azimuth) * cos(elevation), sin(elevation), cos(azimuth) * cos(elevation)])
    side = np.array([cos(azimuth), 0.0, -sin(azimuth)])
    return toward, side, np.cross(toward, side)
