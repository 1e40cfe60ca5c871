"""Reflection from a metal: exact Fresnel, GGX facets, and the light that one bounce between facets loses given back."""

from functools import lru_cache
from math import sqrt
from pathlib import Path

import numpy as np

from nineglass.kernels import HALF, ONE, TWO, ZERO, F, kernel, optic
from nineglass.optics.energy import facet_numbers
from nineglass.optics.microfacet import sample_visible_normal, smith_lambda
from nineglass.vectors import reflect

COSINES, ALPHAS = 32, 32


@optic
def conductor_reflectance(cos_i, n, k):
    """Unpolarised Fresnel reflectance of a conductor.

    cos_i: cosine of the angle of incidence, in [0, 1]. n, k: index and extinction over the index before.
    Source: Born & Wolf, Principles of Optics, 7th ed., 14.4.1 (written out as in Lagarde 2013).
    """
    cos2 = cos_i * cos_i
    sin2 = ONE - cos2
    inner = n * n - k * k - sin2
    a2_b2 = sqrt(max(inner * inner + F(4) * n * n * k * k, ZERO))
    a = sqrt(max(HALF * (a2_b2 + inner), ZERO))
    s_top, s_more = a2_b2 + cos2, TWO * cos_i * a
    s = (s_top - s_more) / max(s_top + s_more, F(1e-12))
    p_top, p_more = cos2 * a2_b2 + sin2 * sin2, TWO * cos_i * a * sin2
    p = s * (p_top - p_more) / max(p_top + p_more, F(1e-12))
    return HALF * (s + p)


@kernel
def fill_mirror_albedo(table, side):
    """(ALPHAS, COSINES): the share of light that one bounce from a perfect rough mirror sends on."""
    for j in range(table.shape[0]):
        width = F(j) / F(table.shape[0] - 1)
        alpha = max(width * width, F(1e-3))
        for i in range(table.shape[1]):
            t = F(i) / F(table.shape[1] - 1)
            mu = max(t * t, F(1e-3))
            wo = (sqrt(ONE - mu * mu), ZERO, mu)
            total = 0.0
            for cell in range(side * side):
                u, v, weight = facet_numbers((F(cell % side) + HALF) / F(side), (F(cell // side) + HALF) / F(side))
                wi = reflect(wo, sample_visible_normal(wo, alpha, u, v))
                if wi[2] > ZERO:
                    lambda_o = smith_lambda(mu, alpha)
                    total += weight * (ONE + lambda_o) / (ONE + lambda_o + smith_lambda(wi[2], alpha))
            table[j, i] = total / (side * side)


def mirror_albedo(side: int = 128) -> np.ndarray:
    """(32, 32) float32 over alpha (squared spacing) and cosine (squared spacing)."""
    table = np.zeros((ALPHAS, COSINES), np.float32)
    fill_mirror_albedo(table, side)
    return table


@lru_cache(1)
def mirror_albedo_table() -> np.ndarray:
    """What `mirror_albedo` gives, baked by tools/bake_spectra.py."""
    return np.load(Path(__file__).parent / "data" / "mirror_albedo.npy")


@lru_cache(1)
def mirror_mean_table() -> np.ndarray:
    """(32,) the cosine-weighted mean of what one bounce from a perfect rough mirror loses, by alpha as in `mirror_albedo`."""
    nodes, cosines = np.maximum(np.linspace(0, 1, COSINES) ** 2, 1e-3), (np.arange(512) + 0.5) / 512
    sent = np.stack([np.interp(cosines, nodes, row) for row in mirror_albedo_table()])
    return np.maximum((2 * (1 - sent) * cosines).mean(axis=-1), 1e-6).astype(np.float32)


@optic
def mean_mirror_missing(mean, alpha):
    """`mirror_mean_table` read at an alpha."""
    y = sqrt(min(max(alpha, ZERO), ONE)) * F(ALPHAS - 1)
    j = min(int(y), ALPHAS - 2)
    return mean[j] + (mean[j + 1] - mean[j]) * (y - F(j))


@optic
def mirror_share(table, mu, alpha):
    """The table read at a cosine and an alpha."""
    x = sqrt(min(max(mu, F(1e-3)), ONE)) * F(COSINES - 1)
    y = sqrt(min(max(alpha, ZERO), ONE)) * F(ALPHAS - 1)
    i, j = min(int(x), COSINES - 2), min(int(y), ALPHAS - 2)
    fx, fy = x - F(i), y - F(j)
    low = table[j, i] + (table[j, i + 1] - table[j, i]) * fx
    high = table[j + 1, i] + (table[j + 1, i + 1] - table[j + 1, i]) * fx
    return low + (high - low) * fy


@optic
def metal_gain(share, reflectance_facing):
    """What a single bounce is multiplied by so that the light it loses is given back, coloured by more bounces.

    share: what one bounce of a perfect mirror sends on. reflectance_facing: at normal incidence.
    Source: Turquin 2019, Practical Multiple Scattering Compensation for Microfacet Models, eq. 16.
    """
    return ONE + reflectance_facing * (ONE - share) / max(share, F(0.05))
