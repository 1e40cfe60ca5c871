"""From the colour that a thick pelt is to have to what its strands absorb.

A pelt of lying strands over a skin of its own colour, under even light. The relation is worked out by following light through it
(`tools/bake_pelts.py`), as the fit of Chiang et al. 2016, A Practical and Controllable Hair and Fur Model for Production Path Tracing, 4.4,
is; but for the strength of the highlight and for the medulla as well.
"""

from functools import lru_cache
from pathlib import Path

import numpy as np

STEPS = 65
FILE = Path(__file__).parent / "data" / "pelts.npz"
IOR = 1.55
ALONG, AROUND = (0.1, 0.3, 0.6, 1.0), (0.1, 0.3, 0.6, 1.0)
HIGHLIGHT, MEDULLA = (0.0, 0.3, 1.0), (0.0, 0.3, 1.0)
"""For which roughness along and around, highlight and medulla it is known; between them it is linear."""


@lru_cache(1)
def _known():
    """A function of places on the grid, (n, 4), that gives the roots there."""
    from scipy.interpolate import RegularGridInterpolator

    return RegularGridInterpolator((ALONG, AROUND, HIGHLIGHT, MEDULLA), np.load(FILE)["roots"])


@lru_cache(64)
def absorption_table(along: float, around: float, ior: float, highlight: float, medulla: float) -> np.ndarray:
    """(65,) float32: the root of the absorption per diameter, by even steps of the colour from 0 to 1.

    along, around, highlight, medulla: in [0, 1]. ior: above that of the table it counts as a stronger highlight.
    """
    stronger = ((ior - 1) / (ior + 1)) ** 2 / ((IOR - 1) / (IOR + 1)) ** 2
    given = (along, around, highlight * stronger, medulla)
    limits = [(axis[0], axis[-1]) for axis in (ALONG, AROUND, HIGHLIGHT, MEDULLA)]
    place = [min(max(value, low), high) for value, (low, high) in zip(given, limits, strict=True)]
    return _known()(place)[0].astype(np.float32)
