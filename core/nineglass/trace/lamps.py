"""The outlines of lamps: where a ray meets one, and a point on one."""

from math import cos, sin, sqrt
from typing import NamedTuple

import numpy as np

from nineglass.kernels import FAR, ONE, PI, TWO, ZERO, F, optic
from nineglass.lamps.light import DISC, POINT, SPHERE, SUN
from nineglass.vectors import add, cross, dot, frame, scale, sub, to_world, unit

BY_CAMERA, BY_REFLECTIONS, BY_SHADOWS = 1, 2, 4
"""Bits of who sees an object or lamp."""


class Lamps(NamedTuple):
    """One row a lamp; `nineglass.lamps.light.Light` says what the fields mean for each shape."""

    shape: np.ndarray  # (n,) int32
    centre: np.ndarray  # (n, 3) m; a unit direction for a sun
    across: np.ndarray  # (n, 3) half edge or radius
    up: np.ndarray  # (n, 3)
    normal: np.ndarray  # (n, 3) the side that glows
    spread: np.ndarray  # (n,) radius of a sphere in m, of a sun in rad
    seen: np.ndarray  # (n,) int32 bits
    lights: np.ndarray  # (n,) int32 a bit for each object that it lights
    clear: np.ndarray  # (n,) int32: 1 when no shadow is cast


@optic
def row3(array, k):
    return array[k, 0], array[k, 1], array[k, 2]


@optic
def _flat_distance(lamps, k, origin, direction):
    n = row3(lamps.normal, k)
    facing = dot(direction, n)
    if facing >= F(-1e-7):
        return FAR
    middle = sub(row3(lamps.centre, k), origin)
    t = dot(middle, n) / facing
    if t <= ZERO:
        return FAR
    way = sub(scale(direction, t), middle)
    across, up = row3(lamps.across, k), row3(lamps.up, k)
    a, b = dot(way, across) / dot(across, across), dot(way, up) / dot(up, up)
    if lamps.shape[k] == DISC:
        return t if a * a + b * b <= ONE else FAR
    return t if abs(a) <= ONE and abs(b) <= ONE else FAR


@optic
def meet_lamp(lamps, k, origin, direction):
    """Distance to the glowing side of a lamp, or FAR; a sun is met just before FAR."""
    shape = lamps.shape[k]
    if shape == POINT:
        return FAR
    if shape == SUN:
        n = row3(lamps.centre, k)
        off = cross(direction, n)
        return FAR * F(0.99) if dot(direction, n) > ZERO and dot(off, off) <= sin(lamps.spread[k]) ** 2 else FAR
    if shape == SPHERE:
        to_centre = sub(row3(lamps.centre, k), origin)
        along = dot(to_centre, direction)
        off = sub(to_centre, scale(direction, along))
        inner = lamps.spread[k] * lamps.spread[k] - dot(off, off)
        t = along - sqrt(max(inner, ZERO))
        return t if inner > ZERO and t > ZERO else FAR
    return _flat_distance(lamps, k, origin, direction)


@optic
def sphere_cone(lamps, k, origin):
    """(1 - cosine of the half angle) under which a sphere is seen; 2 from within it."""
    to_centre = sub(row3(lamps.centre, k), origin)
    sin2 = lamps.spread[k] * lamps.spread[k] / max(dot(to_centre, to_centre), F(1e-20))
    if sin2 >= ONE:
        return TWO
    return sin2 / (ONE + sqrt(ONE - sin2))


@optic
def sun_cone(lamps, k):
    """(1 - cosine of the angular radius) of a sun."""
    s = sin(lamps.spread[k] / TWO)
    return TWO * s * s


@optic
def outline_pdf(lamps, k, origin, direction, distance):
    """Density per solid angle with which `point_on` draws a direction that meets the lamp."""
    shape = lamps.shape[k]
    if shape == SUN:
        return ONE / (TWO * PI * sun_cone(lamps, k))
    if shape == SPHERE:
        return ONE / (TWO * PI * sphere_cone(lamps, k, origin))
    if shape == POINT:
        return distance * distance
    facing = max(-dot(direction, row3(lamps.normal, k)), F(1e-6))
    edges = cross(row3(lamps.across, k), row3(lamps.up, k))
    area = sqrt(dot(edges, edges)) * (PI if shape == DISC else F(4))
    return distance * distance / (facing * area)


@optic
def _in_cone(axis, share, a, b):
    """A unit direction evenly within a cone of 1 - cosine `share` about an axis."""
    off = share * a
    sine, phi = sqrt(max(off * (TWO - off), ZERO)), TWO * PI * b
    x, y = frame(axis)
    return unit(to_world((sine * cos(phi), sine * sin(phi), ONE - off), x, y, axis))


@optic
def point_on(lamps, k, origin, a, b):
    """(unit direction to a point drawn on a lamp, its distance); a distance of 0 means that nothing of it is seen."""
    shape = lamps.shape[k]
    if shape == SUN:
        return _in_cone(row3(lamps.centre, k), sun_cone(lamps, k), a, b), FAR * F(0.99)
    centre = row3(lamps.centre, k)
    if shape == SPHERE:
        share = sphere_cone(lamps, k, origin)
        axis = unit(sub(centre, origin))
        if share >= TWO:
            return axis, ZERO
        way = _in_cone(axis, share * F(0.99999), a, b)
        distance = meet_lamp(lamps, k, origin, way)
        return way, distance if distance < FAR else ZERO
    x, y = TWO * a - ONE, TWO * b - ONE
    if shape == DISC:
        r, phi = sqrt(a), TWO * PI * b
        x, y = r * cos(phi), r * sin(phi)
    if shape == POINT:
        x, y = ZERO, ZERO
    at = add(centre, add(scale(row3(lamps.across, k), x), scale(row3(lamps.up, k), y)))
    way = sub(at, origin)
    distance = sqrt(max(dot(way, way), F(1e-20)))
    way = scale(way, ONE / distance)
    if shape != POINT and dot(way, row3(lamps.normal, k)) >= ZERO:
        return way, ZERO
    return way, distance
