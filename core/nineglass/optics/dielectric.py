"""Fresnel reflection at a smooth boundary between two clear media."""

from math import sqrt

from nineglass.kernels import HALF, ONE, ZERO, F, optic


@optic
def dielectric_reflectance(cos_i, eta):
    """Unpolarised Fresnel reflectance of a smooth dielectric, and the cosine beyond it.

    cos_i: cosine of the angle of incidence, in [0, 1]. eta: index beyond over index before, > 0.
    Returns (reflectance in [0, 1], cos_t); total reflection gives (1, 0).
    Source: Born & Wolf, Principles of Optics, 7th ed., 1.5.2.
    """
    sin2_t = (ONE - cos_i * cos_i) / (eta * eta)
    if sin2_t >= ONE:
        return ONE, ZERO
    cos_t = sqrt(ONE - sin2_t)
    s = (cos_i - eta * cos_t) / (cos_i + eta * cos_t)
    p = (eta * cos_i - cos_t) / (eta * cos_i + cos_t)
    return HALF * (s * s + p * p), cos_t


@optic
def diffuse_reflectance(eta):
    """Unpolarised reflectance of light that falls evenly from all sides on a polished boundary, from the lighter side.

    eta: index beyond over index before, >= 1; below it there is none. Within 0.1 % of the integral of `dielectric_reflectance`.
    Source: Egan & Hilgeman 1973, Spectroscopic Studies and Modeling of Mica, of light from within; the two sides are bound by reciprocity.
    """
    if eta <= ONE:
        return ZERO
    within = F(0.6681) + F(0.0636) * eta + F(0.7099) / eta - F(1.4399) / (eta * eta)
    return max(ONE - eta * eta * (ONE - within), ZERO)


@optic
def share_let_out(cosine, eta):
    """How light that came evenly from within leaves a polished boundary, over how it would leave a matt one: 1 in the mean.

    cosine: of the way that it leaves by, in [0, 1]. eta: index within over index outside, >= 1. Source: Fresnel's formula and its integral.
    """
    reflectance, _ = dielectric_reflectance(cosine, eta)
    return (ONE - reflectance) / (ONE - diffuse_reflectance(eta))
