"""Phase functions: where light goes that was scattered in the midst of matter."""

from math import sqrt

from nineglass.kernels import HALF, ONE, TWO, F, optic

PER_SPHERE = F(0.07957747154594767)
"""1 / (4 pi)."""

EVEN = F(1e-3)
"""An asymmetry below this counts as none."""


@optic
def henyey_greenstein(cos_theta, g):
    """Density (1/sr) of the direction of scattered light; its integral over all directions is 1.

    cos_theta: between the ways before and after, -1 to 1. g: the mean of that cosine, -1 to 1, both excluded.
    Source: Henyey & Greenstein 1941, Diffuse Radiation in the Galaxy.
    """
    below = ONE + g * g - TWO * g * cos_theta
    return PER_SPHERE * (ONE - g * g) / (below * sqrt(below))


@optic
def sample_henyey_greenstein(g, u):
    """A cosine between the ways before and after, drawn by `henyey_greenstein` from a number in [0, 1).

    Source: Witt 1977, Multiple Scattering in Reflection Nebulae I, equation 19.
    """
    if abs(g) < EVEN:
        return ONE - TWO * u
    share = (ONE - g * g) / (ONE - g + TWO * g * u)
    return max(min(HALF / g * (ONE + g * g - share * share), ONE), -ONE)
