"""The rows of all lamps, and which outline each question goes to."""

from typing import NamedTuple

import numpy as np

from nineglass.kernels import FAR, F, step
from nineglass.lamps.light import POINT, SPHERE, SUN
from nineglass.trace.light import flat, point, sphere, sun
from nineglass.trace.light.beams import beam_share

BEAM_LEAST = F(0.02)
"""A lamp with size counts at least this share of its mean towards any place: its beam is only looked up towards its middle."""

meet_flat, draw_flat, flat_density, flat_worth = flat.meet, flat.draw, flat.density, flat.worth
meet_sphere, draw_sphere, sphere_density, sphere_worth = sphere.meet, sphere.draw, sphere.density, sphere.worth
draw_point, point_density, point_worth = point.draw, point.density, point.worth
meet_sun, draw_sun, sun_density, sun_worth = sun.meet, sun.draw, sun.density, sun.worth


class Lamps(NamedTuple):
    """One row a lamp; `nineglass.lamps.light.Light` says what the fields mean for each shape."""

    shape: np.ndarray  # (n,) int32
    centre: np.ndarray  # (n, 3) m; a unit direction for a sun
    across: np.ndarray  # (n, 3) half edge or radius
    up: np.ndarray  # (n, 3)
    normal: np.ndarray  # (n, 3) the side that glows, and the axis of its beam
    side: np.ndarray  # (n, 3) unit: from where turns about the axis are counted
    rise: np.ndarray  # (n, 3) unit: a quarter turn further
    spread: np.ndarray  # (n,) radius of a sphere in m, of a sun in rad
    strength: np.ndarray  # (n,) luminance of its radiance (of a point: of its intensity)
    seen: np.ndarray  # (n,) int32 bits
    lights: np.ndarray  # (n,) int32 a bit for each object that it lights
    clear: np.ndarray  # (n,) int32: 1 when no shadow is cast
    cone: np.ndarray  # (n,) the cosine of the widest angle to its axis that it lights
    behind: np.ndarray  # (n,) m: how far behind its middle the cone begins that holds all that it lights
    beam: np.ndarray  # (n,) int32: row of `beams`, -1 for none
    beams: np.ndarray  # (b, 181, 73) float32: over the mean, by the angle to the axis and around it


@step
def meet_lamp(lamps, k, origin, direction):
    """Distance to the glowing side of a lamp, or FAR; a sun is met just before FAR."""
    shape = lamps.shape[k]
    if shape == POINT:
        return FAR
    if shape == SUN:
        return meet_sun(lamps, k, direction)
    if shape == SPHERE:
        return meet_sphere(lamps, k, origin, direction)
    return meet_flat(lamps, k, origin, direction)


@step
def outline_pdf(lamps, k, origin, direction, distance):
    """Density per solid angle with which `point_on` draws a direction that meets the lamp."""
    shape = lamps.shape[k]
    if shape == SUN:
        return sun_density(lamps, k)
    if shape == SPHERE:
        return sphere_density(lamps, k, origin)
    if shape == POINT:
        return point_density(distance)
    return flat_density(lamps, k, direction, distance)


@step
def point_on(lamps, k, origin, a, b):
    """(unit direction to a point drawn on a lamp, its distance); a distance of 0 means that nothing of it is seen."""
    shape = lamps.shape[k]
    if shape == SUN:
        return draw_sun(lamps, k, a, b)
    if shape == SPHERE:
        return draw_sphere(lamps, k, origin, a, b)
    if shape == POINT:
        return draw_point(lamps, k, origin)
    return draw_flat(lamps, k, origin, a, b)


@step
def lamp_worth(lamps, k, origin):
    """About the luminous irradiance that a lamp can give to a place; 0 only where it gives none."""
    shape = lamps.shape[k]
    if shape == SUN:
        return lamps.strength[k] * sun_worth(lamps, k)
    if shape == POINT:
        way, _ = draw_point(lamps, k, origin)
        return lamps.strength[k] * point_worth(lamps, k, origin) * beam_share(lamps, k, way)
    if shape == SPHERE:
        worth = sphere_worth(lamps, k, origin)
    else:
        worth = flat_worth(lamps, k, origin)
    if lamps.beam[k] >= 0:
        way, _ = draw_point(lamps, k, origin)
        worth *= max(beam_share(lamps, k, way), BEAM_LEAST)
    return lamps.strength[k] * worth
