"""Glowing balls."""

from math import sqrt

from nineglass.kernels import FAR, ONE, PI, TWO, ZERO, F, step
from nineglass.trace.light.cone import in_cone
from nineglass.vectors import dot, row3, scale, sub, unit

WITHIN = F(0.99999)


@step
def meet(lamps, k, origin, direction):
    """Distance to it from outside, or FAR."""
    to_centre = sub(row3(lamps.centre, k), origin)
    along = dot(to_centre, direction)
    off = sub(to_centre, scale(direction, along))
    inner = lamps.spread[k] * lamps.spread[k] - dot(off, off)
    t = along - sqrt(max(inner, ZERO))
    return t if inner > ZERO and t > ZERO else FAR


@step
def cone(lamps, k, origin):
    """(1 - cosine of the half angle) under which it is seen; 2 from within it."""
    to_centre = sub(row3(lamps.centre, k), origin)
    sin2 = lamps.spread[k] * lamps.spread[k] / max(dot(to_centre, to_centre), F(1e-20))
    if sin2 >= ONE:
        return TWO
    return sin2 / (ONE + sqrt(ONE - sin2))


@step
def draw(lamps, k, origin, a, b):
    """(unit direction to a point drawn on it, distance); a distance of 0 from within."""
    share = cone(lamps, k, origin)
    axis = unit(sub(row3(lamps.centre, k), origin))
    if share >= TWO:
        return axis, ZERO
    way = in_cone(axis, share * WITHIN, a, b)
    distance = meet(lamps, k, origin, way)
    return way, distance if distance < FAR else ZERO


@step
def density(lamps, k, origin):
    """Density per solid angle of `draw`."""
    return ONE / (TWO * PI * cone(lamps, k, origin))


@step
def worth(lamps, k, origin):
    """About the irradiance that it gives to a place, over its radiance."""
    share = cone(lamps, k, origin)
    return TWO * PI * share if share < TWO else ZERO
