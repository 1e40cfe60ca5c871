"""Light from far away, within a small cone."""

from math import sin

from nineglass.kernels import FAR, ONE, PI, TWO, ZERO, F, step
from nineglass.trace.light.cone import in_cone
from nineglass.vectors import cross, dot, row3

JUST_BEFORE = FAR * F(0.99)
"""Where a sun is met: behind everything, and before the surround."""


@step
def meet(lamps, k, direction):
    n = row3(lamps.centre, k)
    off = cross(direction, n)
    return JUST_BEFORE if dot(direction, n) > ZERO and dot(off, off) <= sin(lamps.spread[k]) ** 2 else FAR


@step
def cone(lamps, k):
    """(1 - cosine of the angular radius)."""
    s = sin(lamps.spread[k] / TWO)
    return TWO * s * s


@step
def draw(lamps, k, a, b):
    return in_cone(row3(lamps.centre, k), cone(lamps, k), a, b), JUST_BEFORE


@step
def density(lamps, k):
    return ONE / (TWO * PI * cone(lamps, k))


@step
def worth(lamps, k):
    """The irradiance that it gives, over its radiance."""
    return TWO * PI * cone(lamps, k)
