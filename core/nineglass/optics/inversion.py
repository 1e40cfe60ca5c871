"""From the colour that a scattering body is to have to what it is made of.

The colour asked for is the share of the light that gets in through its boundary, evenly from all sides, that comes out again: so a body of
colour 1 absorbs nothing, whatever its index. What the boundary mirrors comes on top, as above body colour. The idea is that of Chiang, Kutz &
Burley 2016, Practical and Controllable Subsurface Scattering for Production Path Tracing; the relation is worked out by doubling, since their
fit is of matter without a boundary.
"""

from functools import lru_cache

import numpy as np

from nineglass.optics.doubling import slab

STEPS = 65
KNOTS = 32


@lru_cache(64)
def inversion_table(index: float, g: float) -> np.ndarray:
    """(65,) float32: the root of the share that is absorbed at one scattering, by even steps of the colour from 0 to 1.

    index: of the matter over what is outside. g: asymmetry of its scattering.
    """
    from scipy.interpolate import PchipInterpolator

    roots = np.concatenate([[0.0], np.geomspace(0.01, 1, KNOTS)])
    mirrored = slab(0.0, 50.0, g, index).reflected_of_even
    colors = [1.0, *((_deep(1 - root * root, g, index) - mirrored) / (1 - mirrored) for root in roots[1:])]
    rising = np.array(colors[::-1])
    rises = np.diff(np.maximum.accumulate(rising), prepend=-1.0) > 0
    smooth = PchipInterpolator(rising[rises], roots[::-1][rises])
    return smooth(np.linspace(0, 1, STEPS)).clip(0, 1).astype(np.float32)


def _deep(albedo: float, g: float, index: float) -> float:
    """What matter without an end reflects of even light."""
    fades = 1 / np.sqrt(3 * (1 - albedo) * (1 - albedo * g))
    return slab(albedo, 40 * fades + 10, g, index).reflected_of_even


def albedo_of(color: np.ndarray, table: np.ndarray) -> np.ndarray:
    """The single-scattering albedo that gives a colour, 0 to 1."""
    root = np.interp(color, np.linspace(0, 1, STEPS), table)
    return 1 - root * root
