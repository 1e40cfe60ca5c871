"""How much of the light one bounce between the facets of a sanded surface sends on: of other widths along and across, by where the light comes from.

Told by the share that is missing, over the index ratio, the width along, how narrow it is across, the width towards the light, and its cosine.
Source of what is summed up: Heitz 2014, Understanding the Masking-Shadowing Function (eqs. 80 and 99); Walter et al. 2007.
"""

from concurrent.futures import ThreadPoolExecutor
from functools import lru_cache
from math import sqrt
from pathlib import Path
from typing import NamedTuple

import numpy as np

from nineglass.kernels import HALF, ONE, TWO, ZERO, F, kernel, optic
from nineglass.optics.dielectric import dielectric_reflectance
from nineglass.optics.energy import eta_at, facet_numbers, index_place
from nineglass.optics.microfacet import alpha_along, sample_sanded, smith_lambda
from nineglass.vectors import dot, reflect, refract

INDICES, WIDTHS, RATIOS, TOWARDS, COSINES = 17, 18, 12, 16, 24
WIDEST = F(sqrt(2))
"""The width along a surface of roughness 1 that is as sanded as may be."""

MIRROR = 0
"""Row of a perfect mirror among the index ratios of a table; the others follow it."""


GOLDEN = (sqrt(5) - 1) / 2


class SandedTables(NamedTuple):
    missing: np.ndarray  # (1 + INDICES, WIDTHS, RATIOS, TOWARDS, COSINES) float32
    mean: np.ndarray  # (1 + INDICES, WIDTHS, RATIOS) float32: its cosine-weighted mean over the hemisphere


@optic
def _width_at(j):
    t = F(j) / F(WIDTHS - 1)
    return max(WIDEST * t * t, F(1e-3))


@optic
def _ratio_at(k):
    t = F(k) / F(RATIOS - 1)
    return F(0.02) + F(0.98) * t * t


@optic
def _towards_at(m):
    """How far from the width across to the one along: in small steps at both ends, where light is hidden or reflected as a whole all at once."""
    t = F(m) / F(TOWARDS - 1)
    return TWO * t * t if t < HALF else ONE - TWO * (ONE - t) * (ONE - t)


@optic
def _cosine_at(i):
    t = F(i) / F(COSINES - 1)
    return max(t * t, F(1e-3))


@optic
def _bounce(wo, alpha, stretch, eta, u, v):
    """The share of the light from wo that one facet, as it is seen from there, sends on; eta of 0 for a perfect mirror."""
    h = sample_sanded(wo, alpha, stretch, u, v)
    facing = min(max(dot(wo, h), ZERO), ONE)
    above = ONE + smith_lambda(wo[2], alpha_along(wo, alpha, stretch))
    share, cos_t = ONE, ZERO
    if eta > ZERO:
        share, cos_t = dielectric_reflectance(facing, eta)
    total, wi = ZERO, reflect(wo, h)
    if wi[2] > ZERO:
        total += share * above / (above + smith_lambda(wi[2], alpha_along(wi, alpha, stretch)))
    if share < ONE:
        wi = refract(wo, h, eta, facing, cos_t)
        if wi[2] < ZERO:
            total += (ONE - share) / (ONE + smith_lambda(-wi[2], alpha_along(wi, alpha, stretch)))
    return total


@kernel
def _fill(row, eta, points):
    for j in range(WIDTHS):
        for k in range(RATIOS):
            along, ratio = _width_at(j), _ratio_at(k)
            alpha, stretch = along * sqrt(ratio), ONE / sqrt(ratio)
            for m in range(TOWARDS):
                towards = ratio + (ONE - ratio) * _towards_at(m)
                share = ONE
                if ratio < ONE:
                    share = (towards * towards - ratio * ratio) / (ONE - ratio * ratio)
                x, y = sqrt(max(share, ZERO)), sqrt(max(ONE - share, ZERO))
                for i in range(COSINES):
                    z = _cosine_at(i)
                    across = sqrt(ONE - z * z)
                    total = 0.0
                    for n in range(len(points)):
                        u, v, weight = facet_numbers(points[n, 0], points[n, 1])
                        total += weight * _bounce((x * across, y * across, z), alpha, stretch, eta, u, v)
                    row[j, k, m, i] = ONE - total / len(points)


def tabulate(count: int = 4096) -> np.ndarray:
    """`SandedTables.missing`, in half precision: means over so many points of a lattice, which meets edges of total reflection better than a grid."""
    table = np.zeros((1 + INDICES, WIDTHS, RATIOS, TOWARDS, COSINES), np.float32)
    number = np.arange(count) + 0.5
    points = np.stack([number / count, number * GOLDEN % 1], axis=1).astype(np.float32)
    etas = [ZERO, *(eta_at(row, INDICES) for row in range(INDICES))]
    with ThreadPoolExecutor() as pool:
        list(pool.map(lambda row, eta: _fill(row, eta, points), table, etas))
    return np.clip(table, 0, 1).astype(np.float16)


def _means(missing: np.ndarray) -> np.ndarray:
    """Over the hemisphere, of what lies between the nodes as it is read there."""
    t = (np.arange(256) + 0.5) / 256
    place = t * (COSINES - 1)
    nodes = np.maximum(np.linspace(0, 1, COSINES) ** 2, 1e-3)
    z = t**2
    low = np.minimum(place.astype(int), COSINES - 2)
    share = np.clip((z - nodes[low]) / (nodes[low + 1] - nodes[low]), 0, 1)
    by_cosine = missing[..., low] * (1 - share) + missing[..., low + 1] * share
    # z = t^2, so that 2 z dz is 4 t^3 dt.
    over_cosine = (by_cosine * 4 * t**3).mean(axis=-1)
    turn = (np.arange(128) + 0.5) / 128 * np.pi / 2
    ratio = 0.02 + 0.98 * np.linspace(0, 1, RATIOS) ** 2
    ends = np.array([_towards_at(m) for m in range(TOWARDS)])
    found = np.zeros(missing.shape[:3])
    for k, one in enumerate(ratio):
        towards = np.sqrt(np.cos(turn) ** 2 + one**2 * np.sin(turn) ** 2)
        at = np.interp(np.clip((towards - one) / max(1 - one, 1e-6), 0, 1), ends, np.arange(TOWARDS))
        first = np.minimum(at.astype(int), TOWARDS - 2)
        part = at - first
        rows = over_cosine[:, :, k]
        found[:, :, k] = (rows[..., first] * (1 - part) + rows[..., first + 1] * part).mean(axis=-1)
    return np.maximum(found, 1e-6).astype(np.float32)


@lru_cache(1)
def sanded_tables() -> SandedTables:
    """Baked by tools/bake_spectra.py."""
    missing = np.load(Path(__file__).parent / "data" / "sanded_missing.npy").astype(np.float32)
    return SandedTables(missing, _means(missing))


@optic
def _between(x, count):
    """(the node below a place among so many, how far beyond it)."""
    i = min(int(max(x, ZERO)), count - 2)
    return i, min(x - F(i), ONE)


@optic
def _read(missing, row, w, alpha, stretch):
    """What is missing in a direction, of a row of the table."""
    along, ratio = alpha * stretch, ONE / (stretch * stretch)
    j, fj = _between(sqrt(along / WIDEST) * F(WIDTHS - 1), WIDTHS)
    k, fk = _between(sqrt(max(ratio - F(0.02), ZERO) / F(0.98)) * F(RATIOS - 1), RATIOS)
    towards = min(max((alpha_along(w, alpha, stretch) / along - ratio) / max(ONE - ratio, F(1e-6)), ZERO), ONE)
    t = sqrt(HALF * towards) if towards < HALF else ONE - sqrt(HALF * (ONE - towards))
    m, _ = _between(t * F(TOWARDS - 1), TOWARDS)
    fm = (towards - _towards_at(m)) / (_towards_at(m + 1) - _towards_at(m))
    z = min(max(abs(w[2]), F(1e-3)), ONE)
    i, _ = _between(sqrt(z) * F(COSINES - 1), COSINES)
    fi = (z - _cosine_at(i)) / (_cosine_at(i + 1) - _cosine_at(i))
    total = ZERO
    for corner in range(8):
        a, b, c = corner & 1, (corner >> 1) & 1, (corner >> 2) & 1
        weight = (fj if a else ONE - fj) * (fk if b else ONE - fk) * (fm if c else ONE - fm)
        low, high = missing[row, j + a, k + b, m + c, i], missing[row, j + a, k + b, m + c, i + 1]
        total += weight * (low + (high - low) * fi)
    return total


@optic
def _row_of(eta):
    k, share = index_place(eta, INDICES)
    return MIRROR + 1 + k, share


@optic
def sanded_mirror_share(tables, w, alpha, stretch):
    """As `conductor.mirror_share`, of a sanded mirror."""
    return ONE - min(_read(tables.missing, MIRROR, w, alpha, stretch), F(0.95))


@optic
def sanded_missing(tables, w, alpha, stretch, eta):
    """As `energy.missing`, of a sanded surface."""
    row, share = _row_of(eta)
    low, high = _read(tables.missing, row, w, alpha, stretch), _read(tables.missing, row + 1, w, alpha, stretch)
    return min(max(low + (high - low) * share, ZERO), F(0.999))


@optic
def _mean_of_row(mean, row, alpha, stretch):
    j, fj = _between(sqrt(alpha * stretch / WIDEST) * F(WIDTHS - 1), WIDTHS)
    k, fk = _between(sqrt(max(ONE / (stretch * stretch) - F(0.02), ZERO) / F(0.98)) * F(RATIOS - 1), RATIOS)
    low = mean[row, j, k] * (ONE - fk) + mean[row, j, k + 1] * fk
    high = mean[row, j + 1, k] * (ONE - fk) + mean[row, j + 1, k + 1] * fk
    return low + (high - low) * fj


@optic
def _mean_missing(mean, alpha, stretch, eta):
    row, share = _row_of(eta)
    low = _mean_of_row(mean, row, alpha, stretch)
    return low + (_mean_of_row(mean, row + 1, alpha, stretch) - low) * share


@optic
def sanded_means(tables, alpha, stretch, eta):
    """The cosine-weighted means of what is missing: before the boundary, beyond it, and of a mirror."""
    mean = tables.mean
    here, beyond = _mean_missing(mean, alpha, stretch, eta), _mean_missing(mean, alpha, stretch, ONE / eta)
    return here, beyond, _mean_of_row(mean, MIRROR, alpha, stretch)
