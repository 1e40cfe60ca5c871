"""One boundary of a stack of layers, with films on it, at four wavelengths at once: rough or polished.

As `optics.energy` for a plain boundary, but what is reflected may differ from wavelength to wavelength. The index ratio `eta` that
bends light is that of the first wavelength; `indices` are those that reflect. Sources: Walter et al. 2007; Belcour & Barla 2017,
A Practical Extension to Microfacet Theory for the Modeling of Varying Iridescence (the film's reflectance at the facet).
"""

from math import cos, sin, sqrt
from typing import NamedTuple

import numpy as np

from nineglass.kernels import ONE, PI, QUARTER, TWO, ZERO, F, optic, stand_alone
from nineglass.optics.conductor import metal_gain, mirror_albedo_table, mirror_share
from nineglass.optics.energy import energy_tables, missing, rough_boundary
from nineglass.optics.film import boundary_reflectance
from nineglass.optics.microfacet import alpha_along, sample_sanded, sanded_density, smith_lambda
from nineglass.optics.sanded import (
    SandedTables,
    sanded_boundary,
    sanded_mirror_share,
    sanded_missing,
    sanded_tables,
)
from nineglass.vectors import add, dot, negate, reflect, refract, scale, unit

SMALL = F(1e-20)


class Energies(NamedTuple):
    """How much one bounce sends on."""

    albedo: np.ndarray
    mean: np.ndarray
    mirror: np.ndarray
    sanded: SandedTables


def energies() -> Energies:
    return Energies(*energy_tables(), mirror_albedo_table(), sanded_tables())


@optic
def four_reflectances(films, cos_i, before, beyond, extinction, nm):
    """(reflectance at each of four wavelengths, their mean). before: one index; beyond, extinction, nm: four each."""
    stand_alone()
    a, b, c, d = ZERO, ZERO, ZERO, ZERO
    alike = films[0] == 0 and extinction[0] <= ZERO and beyond[0] == beyond[3]
    for w in range(1 if alike else 4):
        share = boundary_reflectance(films, cos_i, before, beyond[w], extinction[w], nm[w])
        if w == 0:
            a, b, c, d = share, share, share, share
        elif w == 1:
            b = share
        elif w == 2:
            c = share
        else:
            d = share
    return (a, b, c, d), QUARTER * (a + b + c + d)


@optic
def scale4(a, s):
    return a[0] * s, a[1] * s, a[2] * s, a[3] * s


@optic
def times4(a, b):
    return a[0] * b[0], a[1] * b[1], a[2] * b[2], a[3] * b[3]


@optic
def add4(a, s):
    return a[0] + s, a[1] + s, a[2] + s, a[3] + s


@optic
def plus4(a, b):
    return a[0] + b[0], a[1] + b[1], a[2] + b[2], a[3] + b[3]


@optic
def rest4(a):
    """1 - a."""
    return ONE - a[0], ONE - a[1], ONE - a[2], ONE - a[3]


@optic
def facet_of(wo, wi, eta):
    """(normal of the facet that sends wo to wi, its cosine with wo); a cosine of 0 where no facet does."""
    if wi[2] > ZERO:
        h = unit(add(wo, wi))
        return h, min(dot(wo, h), ONE)
    h = add(wo, scale(wi, eta))
    h = unit(h) if h[2] > ZERO else unit(negate(h))
    facing = dot(wo, h)
    return h, facing if facing > ZERO and dot(wi, h) < ZERO else ZERO


@optic
def _given_back(tables, wo, alpha, stretch, eta):
    """(share of the light that one bounce loses, share of that which goes to the far side, strength of what is given back before it and beyond)."""
    if stretch == ONE:
        _, _, lost, passed, back, through = rough_boundary(tables.albedo, tables.mean, wo[2], alpha, eta)
        return lost, passed, back, through
    return sanded_boundary(tables.sanded, wo, alpha, stretch, eta)


@optic
def _lost(tables, w, alpha, stretch, eta):
    if stretch == ONE:
        return missing(tables.albedo, abs(w[2]), alpha, eta)
    return sanded_missing(tables.sanded, w, alpha, stretch, eta)


@optic
def _sent(tables, wo, alpha, stretch):
    """What one bounce of a perfect mirror sends on."""
    if stretch == ONE:
        return mirror_share(tables.mirror, wo[2], alpha)
    return sanded_mirror_share(tables.sanded, wo, alpha, stretch)


@optic
def boundary_values(tables, wo, wi, alpha, stretch, films, before, beyond, extinction, nm):
    """(responses of a rough boundary times |cos wi| at four wavelengths, pdf of `sample_boundary`). A metal has extinction. tables: `Energies`.

    stretch: as `microfacet.alpha_of_sanded` says, 1 of a surface that is rugged alike in all directions.
    """
    stand_alone()
    none = (ZERO, ZERO, ZERO, ZERO)
    metal, eta = extinction[0] > ZERO, beyond[0] / before
    h, facing = facet_of(wo, wi, eta)
    if metal and wi[2] <= ZERO:
        return none, ZERO
    shares, share = four_reflectances(films, facing, before, beyond, extinction, nm)
    alpha_o, alpha_i = alpha_along(wo, alpha, stretch), alpha_along(wi, alpha, stretch)
    lambda_o, lambda_i = smith_lambda(wo[2], alpha_o), smith_lambda(abs(wi[2]), alpha_i)
    density = sanded_density(h, alpha, stretch) / ((ONE + lambda_o) * wo[2])
    if metal:
        density *= QUARTER
        sent = _sent(tables, wo, alpha, stretch)
        gains = (
            metal_gain(sent, shares[0]),
            metal_gain(sent, shares[1]),
            metal_gain(sent, shares[2]),
            metal_gain(sent, shares[3]),
        )
        return scale4(times4(shares, gains), density * (ONE + lambda_o) / (ONE + lambda_o + lambda_i)), density
    lost, passed, back, through = _given_back(tables, wo, alpha, stretch, eta)
    cosine = abs(wi[2])
    if wi[2] > ZERO:
        density *= QUARTER
        values = scale4(shares, density * (ONE + lambda_o) / (ONE + lambda_o + lambda_i))
        pdf = (ONE - lost) * share * density + lost * (ONE - passed) * cosine / PI
        return add4(values, back * _lost(tables, wi, alpha, stretch, eta) * cosine), pdf
    values, pdf = none, ZERO
    if facing > ZERO:
        i_h = dot(wi, h)
        k = facing + eta * i_h
        density *= facing * eta * eta * -i_h / max(k * k, SMALL)
        values, pdf = scale4(rest4(shares), density / (ONE + lambda_i)), (ONE - lost) * (ONE - share) * density
    pdf += lost * passed * cosine / PI
    return add4(values, through * _lost(tables, wi, alpha, stretch, ONE / eta) * cosine), pdf


@optic
def sample_boundary(tables, wo, alpha, stretch, films, before, beyond, extinction, nm, u, v, choice):
    """A direction from a rough boundary; one of the wrong side (z of 0) where a facet hides it from another."""
    stand_alone()
    metal, eta, lost, passed = extinction[0] > ZERO, beyond[0] / before, ZERO, ZERO
    if not metal:
        lost, passed, _, _ = _given_back(tables, wo, alpha, stretch, eta)
    if choice < lost:
        r, phi = sqrt(u), TWO * PI * v
        z = sqrt(max(ONE - u, F(1e-8)))
        return r * cos(phi), r * sin(phi), z if choice / lost >= passed else -z
    h = sample_sanded(wo, alpha, stretch, u, v)
    facing = min(max(dot(wo, h), ZERO), ONE)
    sin2, share = (ONE - facing * facing) / (eta * eta), ONE
    if not metal:
        _, share = four_reflectances(films, facing, before, beyond, extinction, nm)
    if metal or (choice - lost) / (ONE - lost) < share or sin2 >= ONE:
        wi = reflect(wo, h)
        return wi if wi[2] > ZERO else (wi[0], wi[1], ZERO)
    wi = refract(wo, h, eta, facing, sqrt(ONE - sin2))
    return wi if wi[2] < ZERO else (wi[0], wi[1], ZERO)
