"""The light of one fibre: a rough dielectric cylinder with a tilted cuticle, coloured within.

Directions are unit vectors in the frame of the fibre: x runs along it from root to tip, and light arrives and leaves at any angle about
it. `h` is how far beside the axis a ray met it, of its radius, in [-1, 1]. A value is the response times the cosine of wi to the
fibre's normal plane, 1/sr, so that over all directions it integrates to the share of light that goes on. Absorption is told per
diameter: 1 leaves 1/e of what goes straight through the middle.

Four lobes: mirrored at the surface (R), passed through (TT), mirrored once within (TRT), and all that is mirrored more often.
Sources: Marschner et al. 2003, Light Scattering from Human Hair Fibers; d'Eon et al. 2011, An Energy-Conserving Hair Reflectance Model;
Chiang, Bitterli, Tappan & Burley 2016, A Practical and Controllable Hair and Fur Model for Production Path Tracing.
"""

from math import asin, atan2, cos, exp, log, sin, sqrt, tanh

import numpy as np

from nineglass.kernels import HALF, ONE, PI, TWO, ZERO, F, optic
from nineglass.optics.dielectric import dielectric_reflectance

MIRRORED, PASSED, ONCE_WITHIN, MORE = range(4)
LOBES = 4

LEAST_COSINE = F(1e-4)
NARROWEST = F(5e-4)
"""Below this variance a longitudinal lobe is about one degree wide: single precision would lose its shape."""

LOG_TWO_PI = F(np.log(2 * np.pi))
SQRT_PI_OVER_8 = F(np.sqrt(np.pi / 8))


@optic
def longitudinal_variance(roughness):
    """Variance of the mirrored light's longitudinal lobe.

    roughness: 0 to 1, even to the eye. Source: Chiang et al. 2016, eq. 7.
    """
    r2 = roughness * roughness
    r20 = r2 * r2
    r20 = r20 * r20 * r2
    r20 = r20 * r20
    root = F(0.726) * roughness + F(0.812) * r2 + F(3.7) * r20
    return max(root * root, NARROWEST)


@optic
def azimuthal_scale(roughness):
    """Scale of the logistic about the fibre. roughness: 0 to 1, even to the eye. Source: Chiang et al. 2016, eq. 8."""
    r2 = roughness * roughness
    r22 = r2 * r2
    r22 = r22 * r22
    r22 = r22 * r22 * r2 * r2 * r2
    return max(SQRT_PI_OVER_8 * (F(0.265) * roughness + F(1.194) * r2 + F(5.372) * r22), F(1e-2))


@optic
def log_bessel_0(x):
    """Logarithm of the modified Bessel function I0, x >= 0. Source: Abramowitz & Stegun 1964, 9.8.1 and 9.8.2."""
    if x < F(3.75):
        t = x / F(3.75)
        t *= t
        return log(
            ONE
            + t
            * (
                F(3.5156229)
                + t * (F(3.0899424) + t * (F(1.2067492) + t * (F(0.2659732) + t * (F(0.0360768) + t * F(0.0045813)))))
            )
        )
    t = F(3.75) / x
    series = F(0.39894228) + t * (
        F(0.01328592)
        + t
        * (
            F(0.00225319)
            + t
            * (
                F(-0.00157565)
                + t
                * (
                    F(0.00916281)
                    + t * (F(-0.02057706) + t * (F(0.02635537) + t * (F(-0.01647633) + t * F(0.00392377))))
                )
            )
        )
    )
    return x + log(series) - HALF * log(x)


@optic
def longitudinal_norm(variance):
    """Logarithm of 1 / (2 v sinh(1/v)), without overflow: what normalizes a longitudinal lobe."""
    inverse = ONE / variance
    return log(inverse) - inverse - log(max(ONE - exp(-TWO * inverse), F(1e-20)))


@optic
def longitudinal(cos_i, cos_o, sin_i, sin_o, variance, norm):
    """Density of a lobe along the fibre; integrates to 1 over directions (per radian about the fibre).

    cosines and sines of the inclinations to the normal plane; norm: `longitudinal_norm`. Source: d'Eon et al. 2011, eq. 7.
    """
    a, b = cos_i * cos_o / variance, sin_i * sin_o / variance
    return exp(min(log_bessel_0(a) - b + norm, F(60)))


@optic
def logistic_norm(scale):
    """What normalizes a trimmed logistic."""
    return ONE / (scale * tanh(PI / (TWO * scale)))


@optic
def logistic(x, scale, norm):
    """The logistic density trimmed to -pi..pi. norm: `logistic_norm`. Source: Chiang et al. 2016, 4.1.2."""
    e = exp(-abs(x) / scale)
    return e * norm / ((ONE + e) * (ONE + e))


@optic
def drawn_logistic(u, scale):
    """An angle drawn by `logistic` from a number in [0, 1)."""
    edge = ONE / (ONE + exp(PI / scale))
    share = edge + u * (ONE - TWO * edge)
    share = min(max(share, F(1e-7)), F(0.9999999))
    return min(max(-scale * log(ONE / share - ONE), -PI), PI)


@optic
def within_turn(angle):
    """An angle brought to -pi..pi."""
    turns = angle / (TWO * PI)
    return angle - TWO * PI * F(np.floor(turns + HALF))


@optic
def turn_of(lobe, gamma_o, gamma_t):
    """By how much a smooth fibre turns light about itself. Source: Marschner et al. 2003, eq. 3."""
    return within_turn(TWO * F(lobe) * gamma_t - TWO * gamma_o + F(lobe) * PI)


@optic
def tilted(lobe, sin_o, cos_o, tilt):
    """(sine, cosine) of the inclination from which a lobe's light seems to come, by the tilt of the cuticle (radians).

    Scales lean to the root: the mirrored lobe's peak lies twice the tilt nearer the root, those of TT and TRT once and four times nearer the tip.
    Source: Marschner et al. 2003, 4.1; d'Eon et al. 2011, 3.
    """
    turns = ZERO
    if lobe == MIRRORED:
        turns = TWO
    elif lobe == PASSED:
        turns = -ONE
    elif lobe == ONCE_WITHIN:
        turns = F(-4)
    s, c = sin(turns * tilt), cos(turns * tilt)
    return sin_o * c + cos_o * s, abs(cos_o * c - sin_o * s)


@optic
def bent_within(sin_o, cos_o, h, eta):
    """(angle beside the axis outside, angle within, share of a diameter that light goes through). Source: Marschner et al. 2003, B."""
    eta_p = sqrt(max(eta * eta - sin_o * sin_o, F(1e-6))) / max(cos_o, LEAST_COSINE)
    sin_t = sin_o / eta
    cos_t = sqrt(max(ONE - sin_t * sin_t, F(1e-6)))
    sin_gamma_t = min(max(h / eta_p, -ONE), ONE)
    cos_gamma_t = sqrt(max(ONE - sin_gamma_t * sin_gamma_t, ZERO))
    return asin(min(max(h, -ONE), ONE)), asin(sin_gamma_t), cos_gamma_t / cos_t


@optic
def mirrored_share(cos_o, h, eta):
    """Share of light that the surface mirrors."""
    reflectance, _ = dielectric_reflectance(min(cos_o * sqrt(max(ONE - h * h, ZERO)), ONE), eta)
    return reflectance


@optic
def shares(absorption, way, mirrored, highlight, medulla):
    """Shares of light that the four lobes send on: (R, TT, TRT, more). They add up to 1 where nothing is absorbed.

    absorption: per diameter. way: through the fibre, in diameters. mirrored: by a plain surface; highlight: how much of that the
    surface has on its way in. medulla: share of what passes that the core scatters evenly.
    Source: Chiang et al. 2016, 4.2; the highlight's share is ours, and keeps the sum.
    """
    passed = exp(-absorption * way)
    first = highlight * mirrored
    entered = (ONE - first) * passed
    through = entered * (ONE - mirrored)
    once = through * mirrored * passed
    more = once * mirrored * passed / max(ONE - mirrored * passed, F(1e-6))
    return first, through * (ONE - medulla), once, more + through * medulla


@optic
def lobe_variance(lobe, variance):
    """Of the longitudinal part. Source: Marschner et al. 2003, table 1, widths of R, TT, TRT as 1, 1/2, 2."""
    if lobe == MIRRORED:
        return variance
    if lobe == PASSED:
        return max(variance * F(0.25), NARROWEST)
    return min(F(4) * variance, F(50))


@optic
def lobe_density(lobe, sin_i, cos_i, turn, sin_o, cos_o, gamma_o, gamma_t, tilt, variance, scale):
    """Density of one lobe over directions, 1/sr; integrates to 1. turn: azimuth of wi from that of wo."""
    sine, cosine = tilted(lobe, sin_o, cos_o, tilt)
    spread = lobe_variance(lobe, variance)
    along = longitudinal(cos_i, cosine, sin_i, sine, spread, longitudinal_norm(spread))
    return along * azimuthal(lobe, turn, gamma_o, gamma_t, scale, logistic_norm(scale))


@optic
def azimuthal(lobe, turn, gamma_o, gamma_t, scale, norm):
    """Density of one lobe about the fibre, per radian. turn: azimuth of wi from that of wo; norm: `logistic_norm`."""
    if lobe == MORE:
        return ONE / (TWO * PI)
    return logistic(within_turn(turn - turn_of(lobe, gamma_o, gamma_t)), scale, norm)


@optic
def draw_lobe(lobe, sin_o, cos_o, azimuth, gamma_o, gamma_t, tilt, variance, scale, u, v, w):
    """A direction in the frame of the fibre drawn by `lobe_density`. Source: d'Eon et al. 2013; Chiang et al. 2016, 4.3."""
    sine, cosine = tilted(lobe, sin_o, cos_o, tilt)
    spread = lobe_variance(lobe, variance)
    u = max(u, F(1e-5))
    toward = ONE + spread * log(u + (ONE - u) * exp(-TWO / spread))
    toward = min(max(toward, -ONE), ONE)
    aside = sqrt(max(ONE - toward * toward, ZERO))
    sin_i = min(max(-toward * sine + aside * cos(TWO * PI * v) * cosine, -ONE), ONE)
    cos_i = sqrt(max(ONE - sin_i * sin_i, ZERO))
    turn = TWO * PI * w if lobe == MORE else turn_of(lobe, gamma_o, gamma_t) + drawn_logistic(w, scale)
    return sin_i, cos_i * cos(azimuth + turn), cos_i * sin(azimuth + turn)


@optic
def azimuth_of(w):
    return atan2(w[2], w[1])
