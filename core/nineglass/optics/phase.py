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


@optic
def tabled_phase(cosines, cos_theta):
    """Density (1/sr) of the direction of scattered light where it follows a table.

    cosines: (k + 1,) rising from -1 to 1, at even steps of probability. cos_theta: -1 to 1.
    """
    low, high = 0, cosines.size - 2
    while low < high:
        middle = (low + high + 1) // 2
        if cosines[middle] <= cos_theta:
            low = middle
        else:
            high = middle - 1
    return TWO * PER_SPHERE / (F(cosines.size - 1) * max(cosines[low + 1] - cosines[low], F(1e-9)))


@optic
def sample_tabled_phase(cosines, u):
    """A cosine drawn by `tabled_phase` from a number in [0, 1)."""
    place = u * F(cosines.size - 1)
    k = min(int(place), cosines.size - 2)
    return cosines[k] + (cosines[k + 1] - cosines[k]) * (place - F(k))


@optic
def similar_albedo(even, g):
    """The albedo of matter that turns light by a mean cosine g, and looks in bulk as matter does that scatters to all sides with the albedo `even`.

    Source: van de Hulst 1980, Multiple Light Scattering, chapter 14 (similarity).
    """
    return even / (ONE - g + g * even)
