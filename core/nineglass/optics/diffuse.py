"""Body colour: light thrown back evenly, by rough walls, by grains or by fibres; and fuzz on top of other bands.

All directions are unit vectors in the frame of the surface with positive cosines. A value is the response times the cosine of wi.
What single scattering loses is given back by a lobe (1 - E(o)) (1 - E(i)) / (pi (1 - E)) in the colour of several scatterings,
so that a white body loses nothing. Sources: Kulla & Conty 2017; Portsmouth, Kutz & Hill 2024, EON: A Practical Energy-Preserving
Rough Diffuse BRDF; Oren & Nayar 1994; Estevez & Kulla 2017, Production Friendly Microfacet Sheen BRDF; Neubelt & Pettineo 2013;
Chandrasekhar 1960, Radiative Transfer; Hapke 1981 for the H function.
"""

from functools import lru_cache
from math import acos, cos, exp, log, pi, sin, sqrt

import numpy as np

from nineglass.kernels import HALF, INV_PI, ONE, PI, TWO, ZERO, F, optic, stand_alone
from nineglass.vectors import add, dot, unit

EVEN, GRAINY, VELVET = range(3)


@optic
def even_direction(u, v):
    """A direction about (0, 0, 1), drawn by its cosine from two numbers in [0, 1): as light leaves what is evenly matt."""
    r, phi = sqrt(u), TWO * PI * v
    return r * cos(phi), r * sin(phi), sqrt(max(ONE - u, F(1e-8)))


_C1, _C2 = F(0.5 - 2 / (3 * pi)), F(2 / 3 - 28 / (15 * pi))
GRAINY_SHARE = F(0.95)
"""Hapke's H function is up to 4 % too large; this keeps a grainy body from giving more than it gets."""

STEPS = 32


@optic
def _even_albedo(cosine, rough):
    """Directional albedo of single scattering. Source: Portsmouth et al. 2024, eq. 9."""
    cosine = min(max(cosine, F(1e-4)), ONE)
    sine = sqrt(max(ONE - cosine * cosine, ZERO))
    g = (
        sine * (F(acos(cosine)) - sine * cosine)
        + F(2 / 3) * (sine / cosine) * (ONE - sine * sine * sine)
        - F(2 / 3) * sine
    )
    return (ONE + rough * g * INV_PI) / (ONE + _C1 * rough)


@optic
def _even(wo, wi, rough):
    s = dot(wo, wi) - wo[2] * wi[2]
    t = max(wo[2], wi[2]) if s > ZERO else ONE
    return INV_PI * (ONE + rough * s / t) / (ONE + _C1 * rough)


@optic
def fuzz_value(wo, wi, rough):
    """The response of a mat of fine fibres (not times the cosine). Source: Estevez & Kulla 2017, eq. 2, with Neubelt & Pettineo's visibility."""
    h = unit(add(wo, wi))
    sine2 = max(ONE - h[2] * h[2], F(1e-6))
    power = ONE / rough
    density = (F(2) + power) * exp(HALF * power * log(sine2)) / (F(2) * PI)
    return density / (F(4) * max(wo[2] + wi[2] - wo[2] * wi[2], F(1e-4)))


@optic
def _grainy(wo, wi):
    h_o, h_i = ONE + F(2) * wo[2], ONE + F(2) * wi[2]
    return GRAINY_SHARE * INV_PI * F(0.25) * h_o * h_i / max(wo[2] + wi[2], F(1e-4))


@lru_cache(1)
def diffuse_tables() -> np.ndarray:
    """(3, 32, 33) float32 by model (even, grainy, velvet or fuzz), roughness and cosine: directional albedo; the last
    column is its cosine-weighted mean. Velvet is scaled so that it nowhere gives more than it gets."""
    nodes, weights = np.polynomial.legendre.leggauss(96)
    cosine, share = (nodes + 1) / 2, weights / 2
    angle = (np.arange(64) + 0.5) / 64 * pi
    seen = np.maximum(np.linspace(0, 1, STEPS), 1e-3)
    rough = np.linspace(0, 1, STEPS)
    table = np.zeros((3, STEPS, STEPS + 1))
    wo = np.stack([np.sqrt(1 - seen**2), np.zeros(STEPS), seen], -1)[:, None, None]
    sine = np.sqrt(1 - cosine**2)[:, None]
    wi = np.stack([sine * np.cos(angle), sine * np.sin(angle), cosine[:, None] + 0 * angle], -1)[None]
    s = (wo * wi).sum(-1) - wo[..., 2] * wi[..., 2]
    t = np.where(s > 0, np.maximum(wo[..., 2], wi[..., 2]), 1)
    h = wo + wi
    h2 = (h[..., 2] / np.linalg.norm(h, axis=-1)) ** 2
    visible = 1 / (4 * (wo[..., 2] + wi[..., 2] - wo[..., 2] * wi[..., 2]))
    grains = float(GRAINY_SHARE) / (4 * pi) * (1 + 2 * wo[..., 2]) * (1 + 2 * wi[..., 2]) / (wo[..., 2] + wi[..., 2])
    for j, r in enumerate(rough):
        power = 1 / max(r, 0.01)
        fibres = (2 + power) * np.maximum(1 - h2, 1e-6) ** (power / 2) / (2 * pi) * visible
        even = (1 + r * s / t) / pi / (1 + float(_C1) * r)
        for model, f in enumerate((even, grains, fibres)):
            table[model, j, :-1] = 2 * pi * (f.mean(axis=-1) * cosine * share).sum(axis=-1)
    fine = (np.arange(512) + 0.5) / 512
    for model in range(3):
        for j in range(STEPS):
            at = np.interp(fine, np.linspace(0, 1, STEPS), table[model, j, :-1])
            table[model, j, -1] = (2 * fine * np.minimum(at, 1)).mean()
    return table.astype(np.float32)


@optic
def _read(table, model, rough, cosine):
    x = min(max(cosine, ZERO), ONE) * F(STEPS - 1)
    y = min(max(rough, ZERO), ONE) * F(STEPS - 1)
    i, j = min(int(x), STEPS - 2), min(int(y), STEPS - 2)
    fx, fy = x - F(i), y - F(j)
    low = table[model, j, i] + (table[model, j, i + 1] - table[model, j, i]) * fx
    high = table[model, j + 1, i] + (table[model, j + 1, i + 1] - table[model, j + 1, i]) * fx
    return low + (high - low) * fy


@optic
def albedo_at(table, model, rough, cosine):
    """Share of light from a direction that single scattering sends on, in [0, 1)."""
    if model == EVEN:
        return min(_even_albedo(cosine, rough), F(0.9999))
    return min(_read(table, model, rough, cosine), F(0.9999))


@optic
def mean_albedo(table, model, rough):
    """The cosine-weighted mean of `albedo_at`."""
    if model == EVEN:
        return min((ONE + _C2 * rough) / (ONE + _C1 * rough), F(0.9999))
    y = min(max(rough, ZERO), ONE) * F(STEPS - 1)
    j = min(int(y), STEPS - 2)
    low, high = table[model, j, STEPS], table[model, j + 1, STEPS]
    return min(low + (high - low) * (y - F(j)), F(0.9999))


@optic
def diffuse_parts(table, model, rough, wo, wi):
    """(single scattering, what several give back per unit of their colour) times the cosine of wi; and the mean albedo."""
    stand_alone()
    if model == EVEN:
        single = _even(wo, wi, rough)
    elif model == GRAINY:
        single = _grainy(wo, wi)
    else:
        single = fuzz_value(wo, wi, max(rough, F(0.01))) / max(_over_unity(table, rough, wo, wi), ONE)
    seen, lit, mean = (
        albedo_at(table, model, rough, wo[2]),
        albedo_at(table, model, rough, wi[2]),
        mean_albedo(table, model, rough),
    )
    more = INV_PI * (ONE - seen) * (ONE - lit) / max(ONE - mean, F(1e-6))
    return single * wi[2], more * wi[2], mean


@optic
def _over_unity(table, rough, wo, wi):
    return max(_read(table, VELVET, rough, wo[2]), _read(table, VELVET, rough, wi[2]))


@optic
def diffuse_value(single, more, mean, color):
    """The response of one wavelength whose body colour is `color`. Source: Portsmouth et al. 2024, eq. 13."""
    return color * single + color * color * mean / (ONE - color * (ONE - mean)) * more
