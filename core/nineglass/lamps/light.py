"""What the tracer needs to know of a lamp, and the dials that all lamps share."""

from dataclasses import dataclass
from math import cos, radians, sin

import numpy as np

from nineglass.describe import color_dial, dial

RECTANGLE, DISC, SPHERE, POINT, SUN = range(5)
"""Outlines that the tracer knows."""


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


class Colored:
    """Dials of every lamp: its colour."""

    kelvin = dial(5600, 1500, 12000, hard=(500, 40000), unit="K", label="Temperature", ends=("candle", "blue sky"))
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


def axes(dials) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Unit vectors of a lamp that looks at the middle: towards it, to its side, and up."""
    azimuth, elevation = radians(dials["azimuth"]), radians(dials["elevation"])
    toward = np.array([sin(azimuth) * cos(elevation), sin(elevation), cos(azimuth) * cos(elevation)])
    side = np.array([cos(azimuth), 0.0, -sin(azimuth)])
    return toward, side, np.cross(toward, side)
