"""Lamps without size: no ray meets one; `density` turns intensity into what one would take for radiance."""

from math import sqrt

from nineglass.kernels import ONE, F, step
from nineglass.vectors import dot, row3, scale, sub


@step
def draw(lamps, k, origin):
    """(unit direction to it, distance)."""
    way = sub(row3(lamps.centre, k), origin)
    distance = sqrt(max(dot(way, way), F(1e-20)))
    return scale(way, ONE / distance), distance


@step
def density(distance):
    return distance * distance


@step
def worth(lamps, k, origin):
    """The irradiance that it gives to a place, over its intensity."""
    way = sub(row3(lamps.centre, k), origin)
    return ONE / max(dot(way, way), F(1e-12))
