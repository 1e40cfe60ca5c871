"""One boundary of a stack of layers, with films on it, at four wavelengths at once: rough or polished.

As `optics.energy` for a plain boundary, but what is reflected may differ from wavelength to wavelength. The index ratio `eta` that
bends light is that of the first wavelength; `indices` are those that reflect. Sources: Walter et al. 2007; Belcour & Barla 2017,
A Practical Extension to Microfacet Theory for the Modeling of Varying Iridescence (the film's reflectance at the facet).
"""

from math import cos, sin, sqrt
from typing import NamedTuple

import numpy as np

from nineglass.kernels import INV_PI, ONE, PI, QUARTER, TWO, ZERO, F, optic, stand_alone
from nineglass.optics.conductor import mean_mirror_missing, metal_gain, mirror_share
from nineglass.optics.energy import mean_missing, missing, passed_share
from nineglass.optics.film import NO_FILMS, boundary_reflectance
from nineglass.optics.microfacet import alpha_along, sample_sanded, sanded_density, smith_lambda
from nineglass.optics.sanded import (
    SandedTables,
    sanded_means,
    sanded_mirror_share,
    sanded_missing,
)
from nineglass.vectors import add, dot, negate, reflect, refract, scale, unit

SMALL = F(1e-20)

FACING = F(0.6)
"""The cosine, in the thinner matter, at which facets stand to the light that one bounce loses, about: there films are asked how much they send back."""

LEAST = F(1e-6)
"""What one bounce loses at least: what is given back is told by shares of it."""


class Energies(NamedTuple):
    """How much one bounce sends on."""

    albedo: np.ndarray
    mean: np.ndarray
    mirror: np.ndarray
    mirror_mean: np.ndarray
    sanded: SandedTables


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
def _mean4(a):
    return QUARTER * (a[0] + a[1] + a[2] + a[3])


@optic
def scale4(a, s):
    return a[0] * s, a[1] * s, a[2] * s, a[3] * s


@optic
def times4(a, b):
    return a[0] * b[0], a[1] * b[1], a[2] * b[2], a[3] * b[3]


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
def _share_of_films(films, before, beyond, extinction, nm):
    """Of even light that passes the bare boundary, how much films send back instead, at four wavelengths; below 0 where they let more through."""
    if films[0] == 0:
        return ZERO, ZERO, ZERO, ZERO
    cosine, eta = FACING, beyond[0] / before
    if eta < ONE:
        cosine = sqrt(ONE - (ONE - cosine * cosine) * eta * eta)
    bare, _ = four_reflectances(NO_FILMS, cosine, before, beyond, extinction, nm)
    shares, _ = four_reflectances(films, cosine, before, beyond, extinction, nm)
    return (
        (shares[0] - bare[0]) / (ONE - bare[0]),
        (shares[1] - bare[1]) / (ONE - bare[1]),
        (shares[2] - bare[2]) / (ONE - bare[2]),
        (shares[3] - bare[3]) / (ONE - bare[3]),
    )


@optic
def _lost(tables, w, alpha, stretch, eta):
    if stretch == ONE:
        return missing(tables.albedo, abs(w[2]), alpha, eta)
    return sanded_missing(tables.sanded, w, alpha, stretch, eta)


@optic
def _sent(tables, w, alpha, stretch):
    """What one bounce of a perfect mirror sends on."""
    if stretch == ONE:
        return mirror_share(tables.mirror, abs(w[2]), alpha)
    return sanded_mirror_share(tables.sanded, w, alpha, stretch)


@optic
def _mean_losses(tables, alpha, stretch, eta):
    """What one bounce loses of even light: before the boundary, beyond it, and at a mirror."""
    if stretch == ONE:
        here, beyond = mean_missing(tables.mean, alpha, eta), mean_missing(tables.mean, alpha, ONE / eta)
        return here, beyond, mean_mirror_missing(tables.mirror_mean, alpha)
    return sanded_means(tables.sanded, alpha, stretch, eta)


@optic
def _under_films(bare, mirror, share):
    """What one bounce loses, at four wavelengths: as the bare boundary, and as a mirror of the share that films send back of what passes that."""
    more = mirror - bare
    return (
        max(bare + share[0] * more, LEAST),
        max(bare + share[1] * more, LEAST),
        max(bare + share[2] * more, LEAST),
        max(bare + share[3] * more, LEAST),
    )


@optic
def _losses(tables, w, alpha, stretch, eta, films, share):
    """What one bounce loses of the light from w, on either side of the boundary, at four wavelengths. share: as `_share_of_films`."""
    bare = _lost(tables, w, alpha, stretch, eta if w[2] > ZERO else ONE / eta)
    return _under_films(bare, bare if films[0] == 0 else ONE - _sent(tables, w, alpha, stretch), share)


@optic
def _given_back(lost, here, far, eta):
    """As `_all_given_back`, at one wavelength. here, far: means of what is lost on either side."""
    passed = passed_share(here, far, eta)
    return passed, lost * (ONE - passed) * INV_PI / here, lost * passed * INV_PI / far


@optic
def _all_given_back(tables, lost, alpha, stretch, eta, share):
    """(share of what is given back that goes to the far side, strength of it before the boundary and beyond), at four wavelengths each."""
    here, far, mirror = _mean_losses(tables, alpha, stretch, eta)
    here, far = _under_films(here, mirror, share), _under_films(far, mirror, share)
    a, b = _given_back(lost[0], here[0], far[0], eta), _given_back(lost[1], here[1], far[1], eta)
    c, d = _given_back(lost[2], here[2], far[2], eta), _given_back(lost[3], here[3], far[3], eta)
    return (a[0], b[0], c[0], d[0]), (a[1], b[1], c[1], d[1]), (a[2], b[2], c[2], d[2])


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
    of_films = _share_of_films(films, before, beyond, extinction, nm)
    losses = _losses(tables, wo, alpha, stretch, eta, films, of_films)
    shares_passed, back, through = _all_given_back(tables, losses, alpha, stretch, eta, of_films)
    lost, passed = _mean4(losses), _mean4(shares_passed)
    others = _losses(tables, wi, alpha, stretch, eta, films, of_films)
    cosine = abs(wi[2])
    if wi[2] > ZERO:
        density *= QUARTER
        values = scale4(shares, density * (ONE + lambda_o) / (ONE + lambda_o + lambda_i))
        pdf = (ONE - lost) * share * density + lost * (ONE - passed) * cosine / PI
        return plus4(values, scale4(times4(back, others), cosine)), pdf
    values, pdf = none, ZERO
    if facing > ZERO:
        i_h = dot(wi, h)
        k = facing + eta * i_h
        density *= facing * eta * eta * -i_h / max(k * k, SMALL)
        values, pdf = scale4(rest4(shares), density / (ONE + lambda_i)), (ONE - lost) * (ONE - share) * density
    pdf += lost * passed * cosine / PI
    return plus4(values, scale4(times4(through, others), cosine)), pdf


@optic
def sample_boundary(tables, wo, alpha, stretch, films, before, beyond, extinction, nm, u, v, choice):
    """A direction from a rough boundary; one of the wrong side (z of 0) where a facet hides it from another."""
    stand_alone()
    metal, eta, lost, passed = extinction[0] > ZERO, beyond[0] / before, ZERO, ZERO
    if not metal:
        of_films = _share_of_films(films, before, beyond, extinction, nm)
        losses = _losses(tables, wo, alpha, stretch, eta, films, of_films)
        shares_passed, _, _ = _all_given_back(tables, losses, alpha, stretch, eta, of_films)
        lost, passed = _mean4(losses), _mean4(shares_passed)
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
