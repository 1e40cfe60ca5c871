"""Rectangles and discs: flat lamps of which one side glows."""

from math import cos, sin, sqrt

from nineglass.kernels import FAR, ONE, PI, TWO, ZERO, F, step
from nineglass.lamps.light import DISC
from nineglass.vectors import add, cross, dot, row3, scale, sub

EDGE_ON = F(1e-7)
QUARTERS = F(4)


@step
def meet(lamps, k, origin, direction):
    """Distance to the glowing side, or FAR."""
    n = row3(lamps.normal, k)
    facing = dot(direction, n)
    if facing >= -EDGE_ON:
        return FAR
    centre = row3(lamps.centre, k)
    t = dot(sub(centre, origin), n) / facing
    if t <= ZERO:
        return FAR
    at = sub(add(origin, scale(direction, t)), centre)
    across, up = row3(lamps.across, k), row3(lamps.up, k)
    x, y = dot(at, across) / dot(across, across), dot(at, up) / dot(up, up)
    inside = x * x + y * y <= ONE if lamps.shape[k] == DISC else abs(x) <= ONE and abs(y) <= ONE
    return t if inside else FAR


@step
def area(lamps, k):
    edges = cross(row3(lamps.across, k), row3(lamps.up, k))
    return sqrt(dot(edges, edges)) * (PI if lamps.shape[k] == DISC else QUARTERS)


@step
def draw(lamps, k, origin, a, b):
    """(unit direction to a point drawn on it, distance); a distance of 0 from behind."""
    x, y = TWO * a - ONE, TWO * b - ONE
    if lamps.shape[k] == DISC:
        r, phi = sqrt(a), TWO * PI * b
        x, y = r * cos(phi), r * sin(phi)
    at = add(row3(lamps.centre, k), add(scale(row3(lamps.across, k), x), scale(row3(lamps.up, k), y)))
    way = sub(at, origin)
    distance = sqrt(max(dot(way, way), F(1e-20)))
    way = scale(way, ONE / distance)
    return way, distance if dot(way, row3(lamps.normal, k)) < ZERO else ZERO


@step
def density(lamps, k, direction, distance):
    """Density per solid angle of `draw`."""
    facing = max(-dot(direction, row3(lamps.normal, k)), F(1e-6))
    return distance * distance / (facing * area(lamps, k))


@step
def worth(lamps, k, origin):
    """About the irradiance that it gives to a place, over its radiance; 0 from behind."""
    n = row3(lamps.normal, k)
    away = sub(row3(lamps.centre, k), origin)
    behind = -dot(away, n)
    if behind <= ZERO:
        return ZERO
    square, size = dot(away, away), area(lamps, k)
    return size * behind / sqrt(square) / (square + size)
