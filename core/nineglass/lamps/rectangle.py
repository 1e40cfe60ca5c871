from dataclasses import dataclass
from math import cos, pi, radians, sin

import numpy as np

from nineglass.describe import dial, toggle
from nineglass.lamps import LAMPS


@dataclass(frozen=True)
class Panel:
    """A one-sided glowing rectangle: corner and edges in m, and its radiance in the unit of the picture."""

    corner: np.ndarray
    across: np.ndarray
    up: np.ndarray
    radiance: float
    kelvin: float
    seen: bool


@LAMPS.kind(title="Rectangle lamp", family="area")
class Rectangle:
    """A soft box or strip aimed at the form. It stands on a sphere around the form's centre."""

    width = dial(30, 1, 300, hard=(0.1, 100000), unit="cm", scale="log", ends=("strip", "wall"))
    height = dial(60, 1, 300, hard=(0.1, 100000), unit="cm", scale="log", ends=("strip", "wall"))
    power = dial(
        4, 0.05, 500, hard=(0, 1e9), unit="W", scale="log", ends=("glow", "blaze"), help="All that it sends out."
    )
    kelvin = dial(5600, 1500, 12000, hard=(500, 40000), unit="K", label="Temperature", ends=("candle", "blue sky"))
    azimuth = dial(
        140, -180, 180, hard=(-3600, 3600), unit="deg", ends=("left", "right"), help="0 is the front, 90 the right."
    )
    elevation = dial(20, -30, 90, hard=(-90, 90), unit="deg", ends=("below", "above"))
    distance = dial(60, 10, 500, hard=(1, 1000000), unit="cm", scale="log", ends=("close", "far"))
    seen_by_camera = toggle(False, help="Show the lamp itself in the picture; reflections always see it.")

    def panel(self, dials) -> Panel:
        azimuth, elevation = radians(dials["azimuth"]), radians(dials["elevation"])
        toward = np.array([sin(azimuth) * cos(elevation), sin(elevation), cos(azimuth) * cos(elevation)])
        width, height = dials["width"] / 100, dials["height"] / 100
        side = np.array([cos(azimuth), 0.0, -sin(azimuth)])
        up = np.cross(toward, side)
        centre = toward * dials["distance"] / 100
        corner = centre - side * width / 2 - up * height / 2
        radiance = dials["power"] / (pi * width * height)
        return Panel(corner, side * width, up * height, radiance, dials["kelvin"], dials["seen_by_camera"])
