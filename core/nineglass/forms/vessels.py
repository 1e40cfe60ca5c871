"""What the vessels share: a wall turned from an inner and an outer outline, and the liquid in it."""

from itertools import pairwise

import numpy as np

from nineglass.describe import dial
from nineglass.forms.mesh import Mesh, empty, lathe

MENISCUS_M = 0.002
"""How far water climbs a clean wall. Common practice, no source: about 2 mm."""

AROUND = 96


class Filled:
    """Dials and parts of a vessel that holds a liquid."""

    parts = {"body": 20, "liquid": 10}
    """The liquid reaches half into the wall; the wall is there first, so that the two touch without a gap."""

    level = dial(
        60,
        0,
        100,
        label="Filled to",
        unit="%",
        ends=("empty", "brim"),
        help="How high the liquid stands in the vessel.",
    )

    def mesh(self, dials, part: str) -> Mesh:
        outer, inner = self.outlines(dials)
        if part == "body":
            return lathe([*outer, *inner[::-1]], AROUND)
        if dials["level"] <= 0:
            return empty()
        return liquid_in(outer, inner, dials["level"] / 100)


def liquid_in(outer: np.ndarray, inner: np.ndarray, level: float) -> Mesh:
    """The liquid in a vessel of two outlines (n, 2), from the axis below to the rim: its sides lie in the middle of the wall."""
    outer, inner = np.asarray(outer), np.asarray(inner)
    bottom, rim = inner[0, 1], inner[-1, 1]
    surface = bottom + (rim - bottom) * min(level, 0.98)
    within = inner[inner[:, 1] < surface - 1e-6]
    if not len(within):
        return empty()
    wall_at = np.interp(surface, inner[:, 1], inner[:, 0])
    sides = [_into_wall(point, inner, outer) for point in within]
    half = _wall_half(outer, inner, surface)
    climb = min(MENISCUS_M, (rim - surface) * 0.5, wall_at * 0.2)
    reach = np.linspace(0, 1, 9)
    rise = climb * np.exp(-(1 - reach) * 5.0)
    meniscus = [(wall_at * (0.7 + 0.3 * t), surface + h) for t, h in zip(reach[::-1], rise[::-1], strict=True)]
    top = (wall_at + half, surface + climb)
    return lathe([(0.0, sides[0][1]), *sides[1:], top, *meniscus, (0.0, surface)], AROUND)


def _wall_half(outer: np.ndarray, inner: np.ndarray, height: float) -> float:
    outside = np.interp(height, outer[:, 1], outer[:, 0])
    return max((outside - np.interp(height, inner[:, 1], inner[:, 0])) / 2, 1e-5)


def _into_wall(point, inner: np.ndarray, outer: np.ndarray):
    """A point of the inner outline moved half way into the wall."""
    radius, height = point
    floor_half = (inner[0, 1] - outer[0, 1]) / 2
    if radius < 1e-9:
        return (0.0, height - floor_half)
    away = _wall_half(outer, inner, height)
    low = max(0.0, 1 - (height - inner[0, 1]) / max(floor_half, 1e-9))
    return (radius + min(away, floor_half), height - floor_half * low)


def outline(points, steps: int = 10) -> np.ndarray:
    """A smooth outline through points (radius, height) in m, from the axis below to the rim (monotone in between)."""
    from scipy.interpolate import PchipInterpolator

    points = np.asarray(points, float)
    along = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])
    fine = np.concatenate([np.linspace(a, b, steps, endpoint=False) for a, b in pairwise(along)])
    fine = np.append(fine, along[-1])
    smooth = PchipInterpolator(along, points)(fine)
    smooth[:, 1] = np.maximum.accumulate(smooth[:, 1])
    return smooth
