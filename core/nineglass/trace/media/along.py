"""Where along a flight through a medium without a boundary lamps are asked: by how their light falls off, or by how the flight is scattered."""

from math import atan, exp, log, sqrt, tan

from nineglass.kernels import HALF, ONE, TWO, ZERO, F, step
from nineglass.lamps.light import SUN
from nineglass.vectors import add, dot, scale, sub

CLOSE = F(1e-4)
"""m: how near to a lamp a flight counts as passing it."""

SHORTEST = F(1e-6)
"""m: a shorter part of a flight that a lamp lights is none."""

WIDE = F(0.1)
"""The cosine of the angle of a lamp's beam below which it counts as lighting all around."""

THIN = F(1e-3)
"""An optical depth below which a flight is about the same all along."""


@step
def _passes_lamp(lamps, k, origin, direction):
    """(how far along a ray it is closest to the middle of a lamp, how far it passes it)."""
    from_origin = sub((lamps.centre[k, 0], lamps.centre[k, 1], lamps.centre[k, 2]), origin)
    closest = dot(from_origin, direction)
    aside = sub(from_origin, scale(direction, closest))
    return closest, sqrt(max(dot(aside, aside), CLOSE * CLOSE))


@step
def _equiangular_density(lamps, k, origin, direction, near, far, t):
    """Density (1/m) of `_equiangular` at a distance."""
    closest, away = _passes_lamp(lamps, k, origin, direction)
    span = atan((far - closest) / away) - atan((near - closest) / away)
    return away / (max(span, F(1e-9)) * (away * away + (t - closest) * (t - closest)))


@step
def _equiangular(lamps, k, origin, direction, near, far, u):
    """A distance along a ray, drawn as the light of a lamp falls off from it.

    Source: Kulla & Fajardo 2012, Importance Sampling Techniques for Path Tracing in Participating Media.
    """
    closest, away = _passes_lamp(lamps, k, origin, direction)
    low, high = atan((near - closest) / away), atan((far - closest) / away)
    return min(max(closest + away * tan(low + u * (high - low)), near), far)


@step
def _exponential(sigma, near, far, u):
    """A distance drawn as light is scattered for the first time, somewhere between two; even where it hardly is."""
    reach = far - near
    if sigma * reach < THIN:
        return near + u * reach
    return min(near - log(ONE - u * (ONE - exp(-sigma * reach))) / sigma, far)


@step
def _exponential_density(sigma, near, far, t):
    """Density (1/m) of `_exponential` at a distance."""
    reach = far - near
    if sigma * reach < THIN:
        return ONE / reach
    return sigma * exp(-sigma * (t - near)) / (ONE - exp(-sigma * reach))


@step
def _lit_span(lamps, k, origin, direction, near, far):
    """The part of a flight that lies in the cone that a lamp lights: (from, to); from its end on where none does."""
    if lamps.shape[k] == SUN:
        return far, far
    if lamps.cone[k] < WIDE:
        return near, far
    axis, c = (lamps.normal[k, 0], lamps.normal[k, 1], lamps.normal[k, 2]), lamps.cone[k] * lamps.cone[k]
    tip = sub((lamps.centre[k, 0], lamps.centre[k, 1], lamps.centre[k, 2]), scale(axis, lamps.behind[k]))
    # From where the flight is closest to the tip: seen from its far end the cone near a lamp is lost in rounding.
    closest = dot(sub(tip, origin), direction)
    v, near, far = sub(add(origin, scale(direction, closest)), tip), near - closest, far - closest
    along, ahead = dot(v, axis), dot(direction, axis)
    a, half_b = ahead * ahead - c, ahead * along - c * dot(direction, v)
    root = half_b * half_b - a * (along * along - c * dot(v, v))
    first, second = far, far
    if abs(a) < F(1e-6) or root <= ZERO:
        # Along its side, or past its tip: about nothing of it.
        if a > ZERO and along + ahead * near > ZERO:
            first = near
        return first + closest, second + closest
    root = sqrt(root)
    low, high = min((-half_b - root) / a, (-half_b + root) / a), max((-half_b - root) / a, (-half_b + root) / a)
    if a < ZERO:
        if along + ahead * HALF * (low + high) >= ZERO:
            first, second = max(low, near), min(high, far)
    elif ahead > ZERO:
        first = max(high, near)
    else:
        first, second = near, min(low, far)
    return first + closest, second + closest


@step
def _lamp_along(lamps, origin, direction, near, far, u):
    """One of the lamps that light a part of a flight: (its number, -1 when none does; from, to)."""
    chosen, low, high, count = -1, near, far, ZERO
    for k in range(lamps.shape.size):
        first, last = _lit_span(lamps, k, origin, direction, near, far)
        if last - first <= SHORTEST:
            continue
        count += ONE
        if u * count < ONE:
            chosen, low, high, u = k, first, last, u * count
        else:
            u = (u * count - ONE) / (count - ONE)
    return chosen, low, high


@step
def place_along(lamps, origin, direction, sigma, near, far, which, u):
    """(distance, density) at which lamps are asked along a flight: half of the time by the light of one of them, half by the scattering.
    Either could have drawn each place (Veach 1997, balance heuristic)."""
    by_lamp = which < HALF
    which = which * TWO - (ZERO if by_lamp else ONE)
    k, low, high = _lamp_along(lamps, origin, direction, near, far, which)
    if k < 0:
        t = _exponential(sigma, near, far, u)
        return t, _exponential_density(sigma, near, far, t)
    if by_lamp:
        t = _equiangular(lamps, k, origin, direction, low, high, u)
    else:
        t = _exponential(sigma, near, far, u)
    density = _exponential_density(sigma, near, far, t)
    if low <= t <= high:
        density += _equiangular_density(lamps, k, origin, direction, low, high, t)
    return t, HALF * density
