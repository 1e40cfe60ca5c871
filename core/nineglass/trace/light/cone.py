from math import cos, sin, sqrt

from nineglass.kernels import ONE, PI, TWO, ZERO, step
from nineglass.vectors import frame, to_world, unit


@step
def in_cone(axis, share, a, b):
    """A unit direction evenly within a cone of 1 - cosine `share` about an axis."""
    off = share * a
    sine, phi = sqrt(max(off * (TWO - off), ZERO)), TWO * PI * b
    x, y = frame(axis)
    return unit(to_world((sine * cos(phi), sine * sin(phi), ONE - off), x, y, axis))
