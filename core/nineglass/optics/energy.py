"""The light that one bounce between facets loses, given back, so that a lossless boundary stays lossless.

The missing light leaves by a broad reciprocal lobe m(o) m(i) / (pi M) on both sides, where m is what is missing
from a direction and M its cosine-weighted mean. Its split between the sides keeps f(o, i) / n_i^2 symmetric.
Sources: Kulla & Conty 2017, Revisiting Physically Based Shading; Turquin 2019, Practical Multiple Scattering
Compensation. The split between reflection and transmission is ours.
"""

from functools import lru_cache
from math import cos, sin, sqrt
from pathlib import Path

import numpy as np

from nineglass.kernels import HALF, INV_PI, ONE, PI, TWO, ZERO, F, kernel, optic
from nineglass.optics.dielectric import dielectric_reflectance
from nineglass.optics.microfacet import sample_single_scatter, sample_visible_normal, single_scatter
from nineglass.vectors import dot

DATA = Path(__file__).parent / "data"

COSINES, ALPHAS, INDICES = 48, 36, 33
MOST_PASSED = F(0.8)
"""Of the light given back, the largest share that goes to the far side."""

SPAN = F(0.5)
"""The table covers (eta - 1) / (eta + 1) within +-0.5: an index ratio from 1/3 to 3, in small steps near 1, where total reflection begins."""


@optic
def eta_at(k, count):
    """The index ratio of a row of a table of so many."""
    x = TWO * F(k) / F(count - 1) - ONE
    t = SPAN * x * abs(x)
    return (ONE + t) / (ONE - t)


@optic
def index_place(eta, count):
    """(the row below an index ratio in a table of so many, how far beyond it)."""
    t = min(max((eta - ONE) / (eta + ONE) / SPAN, -ONE), ONE)
    x = sqrt(abs(t))
    x = ((x if t > ZERO else -x) + ONE) * HALF * F(count - 1)
    k = min(int(x), count - 2)
    return k, x - F(k)


@optic
def facet_numbers(u, v):
    """(numbers that a facet is drawn by, weight): more of the steep ones, which are few and lose the most."""
    return u, ONE - v * v, TWO * v


@optic
def _cosine_node(i):
    t = F(i) / F(COSINES - 1)
    return max(t * t, F(1e-3))


@optic
def _one_bounce_albedo(wo, alpha, eta, u, v):
    h = sample_visible_normal(wo, alpha, u, v)
    reflectance, _ = dielectric_reflectance(min(max(dot(wo, h), ZERO), ONE), eta)
    _, reflected = sample_single_scatter(wo, alpha, eta, u, v, ZERO)
    if reflectance >= ONE:
        return reflected
    _, passed = sample_single_scatter(wo, alpha, eta, u, v, ONE)
    return reflectance * reflected + (ONE - reflectance) * passed


@kernel
def _fill(table, side):
    for k in range(INDICES):
        eta = eta_at(k, INDICES)
        for j in range(ALPHAS):
            width = F(j) / F(ALPHAS - 1)
            alpha = max(width * width, F(1e-3))
            for i in range(COSINES):
                mu = _cosine_node(i)
                wo = (sqrt(ONE - mu * mu), ZERO, mu)
                total = 0.0
                for cell in range(side * side):
                    u, v, weight = facet_numbers((F(cell % side) + HALF) / F(side), (F(cell // side) + HALF) / F(side))
                    total += weight * _one_bounce_albedo(wo, alpha, eta, u, v)
                table[k, j, i] = total / (side * side)


def tabulate(side: int = 96) -> np.ndarray:
    """(33, 36, 48) float32: share of light that one bounce sends on, by index ratio, alpha and cosine."""
    table = np.zeros((INDICES, ALPHAS, COSINES), np.float32)
    _fill(table, side)
    return table


@lru_cache(1)
def energy_tables() -> tuple[np.ndarray, np.ndarray]:
    """The baked albedo table, and the cosine-weighted mean of what is missing from it."""
    albedo = np.load(DATA / "dielectric_albedo.npy")
    t = np.linspace(0, 1, 257)
    nodes = np.maximum(np.linspace(0, 1, COSINES) ** 2, 1e-3)
    mu = (t[1:] + t[:-1]) / 2
    position = np.interp(mu, nodes, np.arange(COSINES))
    low = np.minimum(position.astype(int), COSINES - 2)
    share = position - low
    missing = 1 - (albedo[..., low] * (1 - share) + albedo[..., low + 1] * share)
    mean = (2 * np.maximum(missing, 0) * mu).mean(axis=-1)
    return albedo, np.maximum(mean, 1e-6).astype(np.float32)


@optic
def _alpha_place(alpha):
    x = sqrt(min(max(alpha, ZERO), ONE)) * F(ALPHAS - 1)
    j = min(int(x), ALPHAS - 2)
    return j, x - F(j)


@optic
def missing(albedo, mu, alpha, eta):
    """Share of light from cosine mu that one bounce loses, in [0, 1)."""
    k, fk = index_place(eta, INDICES)
    j, fj = _alpha_place(alpha)
    mu = min(max(mu, F(1e-3)), ONE)
    x = sqrt(mu) * F(COSINES - 1)
    i = min(int(x), COSINES - 2)
    low, high = _cosine_node(i), _cosine_node(i + 1)
    fi = min(max((mu - low) / (high - low), ZERO), ONE)
    total = ZERO
    for a in range(2):
        wk = fk if a else ONE - fk
        for b in range(2):
            wj = fj if b else ONE - fj
            total += wk * wj * (albedo[k + a, j + b, i] * (ONE - fi) + albedo[k + a, j + b, i + 1] * fi)
    return min(max(ONE - total, ZERO), F(0.999))


@optic
def mean_missing(mean, alpha, eta):
    """The cosine-weighted mean of `missing` over the hemisphere."""
    k, fk = index_place(eta, INDICES)
    j, fj = _alpha_place(alpha)
    low = mean[k, j] * (ONE - fj) + mean[k, j + 1] * fj
    high = mean[k + 1, j] * (ONE - fj) + mean[k + 1, j + 1] * fj
    return low + (high - low) * fk


@optic
def passed_share(mean_here, mean_beyond, eta):
    """Share of the returned light that goes to the far side.

    With this split c / (M_far n_far^2) is the same both ways, as reciprocity asks, and neither side gives back more than it lost.
    """
    here, beyond = mean_here, mean_beyond * eta * eta
    return MOST_PASSED * min(here, beyond) / here


@optic
def rough_boundary(albedo, mean, cos_o, alpha, eta):
    """What the functions below need to know of a boundary seen under cos_o.

    Returns (alpha, eta, lost, reflected and passed strength of what is given back).
    """
    lost = missing(albedo, cos_o, alpha, eta)
    mean_here, mean_beyond = mean_missing(mean, alpha, eta), mean_missing(mean, alpha, ONE / eta)
    passed = passed_share(mean_here, mean_beyond, eta)
    return alpha, eta, lost, passed, lost * (ONE - passed) * INV_PI / mean_here, lost * passed * INV_PI / mean_beyond


@optic
def rough_dielectric(albedo, boundary, wo, wi):
    """The whole response of a rough boundary times |cos wi|, and the pdf of `sample_rough_dielectric`."""
    alpha, eta, lost, passed, back, through = boundary
    value, pdf = single_scatter(wo, wi, alpha, eta)
    cosine = abs(wi[2])
    if wi[2] > ZERO:
        value += back * missing(albedo, cosine, alpha, eta) * cosine
        pdf = (ONE - lost) * pdf + lost * (ONE - passed) * cosine * INV_PI
    else:
        value += through * missing(albedo, cosine, alpha, ONE / eta) * cosine
        pdf = (ONE - lost) * pdf + lost * passed * cosine * INV_PI
    return value, pdf


@optic
def sample_rough_dielectric(albedo, boundary, wo, u, v, choice):
    """A direction from the whole response: (direction, weight, pdf); a weight of 0 ends the path.

    u, v, choice: numbers in [0, 1).
    """
    alpha, eta, lost, passed, _, _ = boundary
    if choice >= lost:
        wi, weight = sample_single_scatter(wo, alpha, eta, u, v, (choice - lost) / (ONE - lost))
        if weight <= ZERO:
            return wi, ZERO, ZERO
    else:
        r, phi = sqrt(u), TWO * PI * v
        z = sqrt(max(ONE - u, F(1e-8)))
        wi = (r * cos(phi), r * sin(phi), z if choice / lost >= passed else -z)
    value, pdf = rough_dielectric(albedo, boundary, wo, wi)
    if pdf <= ZERO:
        return wi, ZERO, ZERO
    return wi, value / pdf, pdf
