"""How much of the light one bounce between the facets of a sanded surface sends on: of other widths along and across, by where the light comes from.

Told by the share that is missing, over the index ratio, the width along, how narrow it is across, the width towards the light, and its cosine.
Source of what is summed up: Heitz 2014, Understanding the Masking-Shadowing Function (eqs. 80 and 99); Walter et al. 2007.
"""

from functools import lru_cache
from math import sqrt
from pathlib import Path
from typing import NamedTuple

import numpy as np

from nineglass.kernels import HALF, INV_PI, ONE, ZERO, F, kernel, optic
from nineglass.optics.dielectric import dielectric_reflectance
from nineglass.optics.energy import SPAN, passed_share
from nineglass.optics.microfacet import alpha_along, sample_sanded, smith_lambda
from nineglass.vectors import dot, reflect, refract

INDICES, WIDTHS, RATIOS, TOWARDS, COSINES = 17, 14, 9, 6, 24
WIDEST = F(sqrt(2))
"""The width along a surface of roughness 1 that is as sanded as may be."""

MIRROR = 0
"""Row of a perfect mirror among the index ratios of a table; the others follow it."""


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
def _fill(table, side):
    for row in range(table.shape[0]):
        eta = ZERO
        if row > MIRROR:
            t = SPAN * (F(2 * (row - 1)) / F(INDICES - 1) - ONE)
            eta = (ONE + t) / (ONE - t)
        for j in range(WIDTHS):
            for k in range(RATIOS):
                along, ratio = _width_at(j), _ratio_at(k)
                alpha, stretch = along * sqrt(ratio), ONE / sqrt(ratio)
                for m in range(TOWARDS):
                    towards = ratio + (ONE - ratio) * F(m) / F(TOWARDS - 1)
                    share = ONE
                    if ratio < ONE:
                        share = (towards * towards - ratio * ratio) / (ONE - ratio * ratio)
                    x, y = sqrt(max(share, ZERO)), sqrt(max(ONE - share, ZERO))
                    for i in range(COSINES):
                        z = _cosine_at(i)
                        across = sqrt(ONE - z * z)
                        total = 0.0
                        for cell in range(side * side):
                            u = (F(cell % side) + HALF) / F(side)
                            v = (F(cell // side) + HALF) / F(side)
                            total += _bounce((x * across, y * across, z), alpha, stretch, eta, u, v)
                        table[row, j, k, m, i] = ONE - total / (side * side)


def tabulate(side: int = 40) -> np.ndarray:
    """`SandedTables.missing`, in half precision."""
    table = np.zeros((1 + INDICES, WIDTHS, RATIOS, TOWARDS, COSINES), np.float32)
    _fill(table, side)
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
    found = np.zeros(missing.shape[:3])
    for k, one in enumerate(ratio):
        towards = np.sqrt(np.cos(turn) ** 2 + one**2 * np.sin(turn) ** 2)
        at = np.clip((towards - one) / max(1 - one, 1e-6), 0, 1) * (TOWARDS - 1)
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
    towards = (alpha_along(w, alpha, stretch) / along - ratio) / max(ONE - ratio, F(1e-6))
    m, fm = _between(towards * F(TOWARDS - 1), TOWARDS)
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
    x = (min(max((eta - ONE) / (eta + ONE) / SPAN, -ONE), ONE) + ONE) * HALF * F(INDICES - 1)
    k, fk = _between(x, INDICES)
    return MIRROR + 1 + k, fk


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
def _sanded_mean(tables, alpha, stretch, eta):
    row, share = _row_of(eta)
    j, fj = _between(sqrt(alpha * stretch / WIDEST) * F(WIDTHS - 1), WIDTHS)
    k, fk = _between(sqrt(max(ONE / (stretch * stretch) - F(0.02), ZERO) / F(0.98)) * F(RATIOS - 1), RATIOS)
    total = ZERO
    for corner in range(8):
        a, b, c = corner & 1, (corner >> 1) & 1, (corner >> 2) & 1
        weight = (fj if a else ONE - fj) * (fk if b else ONE - fk) * (share if c else ONE - share)
        total += weight * tables.mean[row + c, j + a, k + b]
    return total


@optic
def sanded_boundary(tables, wo, alpha, stretch, eta):
    """As `energy.rough_boundary`, of a sanded surface: (lost, passed, strength of what is given back before it and beyond it)."""
    lost = sanded_missing(tables, wo, alpha, stretch, eta)
    here, beyond = _sanded_mean(tables, alpha, stretch, eta), _sanded_mean(tables, alpha, stretch, ONE / eta)
    passed = passed_share(here, beyond, eta)
    return lost, passed, lost * (ONE - passed) * INV_PI / here, lost * passed * INV_PI / beyond
