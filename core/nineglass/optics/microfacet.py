"""A rough boundary between two clear media: GGX facets, reflection and transmission.

Directions are unit vectors in the frame of the surface: z is the normal, and the eye is on its positive side.
eta is the index on the far side over the index on the eye's side. Light is carried as basic radiance, L / n^2,
so that a path that enters and leaves a medium needs no factors, and a lossless surface in a uniform
surround gives 1 on both sides.
Sources: Walter et al. 2007, Microfacet Models for Refraction through Rough Surfaces; Heitz 2014,
Understanding the Masking-Shadowing Function; Dupuy & Benyoub 2023, Sampling Visible GGX Normals with Spherical Caps.
"""

from math import cos, sin, sqrt

from nineglass.kernels import HALF, ONE, PI, TWO, ZERO, F, optic
from nineglass.optics.dielectric import dielectric_reflectance
from nineglass.vectors import add, dot, negate, reflect, refract, scale, unit

SMOOTHEST = F(1e-3)
"""Below this alpha a boundary is treated as polished."""

SAME_INDEX = F(1e-4)
"""Closer to 1 than this, an index ratio is treated as no boundary."""


@optic
def alpha_of(roughness):
    """GGX width from perceptual roughness, both in [0, 1]. Source: OpenPBR 1.1, specular_roughness."""
    return roughness * roughness


@optic
def ggx_density(cos_h, alpha):
    """GGX density of facet normals, 1/sr. Source: Walter et al. 2007, eq. 33."""
    if cos_h <= ZERO:
        return ZERO
    a2 = alpha * alpha
    k = cos_h * cos_h * (a2 - ONE) + ONE
    return a2 / (PI * k * k)


@optic
def alpha_of_sanded(roughness, anisotropy):
    """(GGX width, stretch) of a sanded surface: widths are alpha * stretch along its direction and alpha / stretch across it.

    Source: OpenPBR 1.1, specular_roughness_anisotropy.
    """
    narrow = ONE - min(anisotropy, F(0.98))
    return alpha_of(roughness) * sqrt(TWO * narrow / (ONE + narrow * narrow)), ONE / sqrt(narrow)


@optic
def alpha_along(w, alpha, stretch):
    """The GGX width towards a direction. Source: Heitz 2014, eq. 80."""
    if stretch == ONE:
        return alpha
    x, y = w[0] * stretch, w[1] / stretch
    return alpha * sqrt((x * x + y * y) / max(w[0] * w[0] + w[1] * w[1], F(1e-12)))


@optic
def sanded_density(h, alpha, stretch):
    """GGX density of facet normals of other widths along x and y, 1/sr. Source: Heitz 2014, eq. 85."""
    if stretch == ONE or h[2] <= ZERO:
        return ggx_density(h[2], alpha)
    x, y = h[0] / (alpha * stretch), h[1] * stretch / alpha
    k = x * x + y * y + h[2] * h[2]
    return ONE / (PI * alpha * alpha * k * k)


@optic
def sample_sanded(wo, alpha, stretch, u, v):
    """A facet normal as seen from wo, of other widths along x and y: the round one, drawn out. Source: Dupuy & Benyoub 2023."""
    if stretch == ONE:
        return sample_visible_normal(wo, alpha, u, v)
    x, y = alpha * stretch, alpha / stretch
    h = sample_visible_normal(unit((wo[0] * x, wo[1] * y, wo[2])), ONE, u, v)
    return unit((h[0] * x, h[1] * y, h[2]))


@optic
def smith_lambda(cos_w, alpha):
    """Smith's Lambda for GGX, cos_w in (0, 1]. Source: Heitz 2014, eq. 72."""
    c2 = max(cos_w * cos_w, F(1e-12))
    return HALF * (sqrt(ONE + alpha * alpha * (ONE - c2) / c2) - ONE)


@optic
def sample_visible_normal(wo, alpha, u, v):
    """A facet normal as seen from wo. Source: Dupuy & Benyoub 2023, listing 1."""
    w = unit((wo[0] * alpha, wo[1] * alpha, wo[2]))
    phi = TWO * PI * u
    z = (ONE - v) * (ONE + w[2]) - w[2]
    r = sqrt(max(ONE - z * z, ZERO))
    h = add((r * cos(phi), r * sin(phi), z), w)
    return unit((h[0] * alpha, h[1] * alpha, max(h[2], F(1e-6))))


@optic
def single_scatter(wo, wi, alpha, eta):
    """The response of one bounce between facets, times |cos wi|, and the sampler's pdf.

    Source: Walter et al. 2007, eqs. 20 and 21 (without the squared-index factor of plain radiance);
    masking and shadowing: height-correlated in reflection (Heitz 2014, eq. 99), Walter's product in transmission.
    """
    cos_o, cos_i = wo[2], wi[2]
    if cos_o <= ZERO or cos_i == ZERO:
        return ZERO, ZERO
    lambda_o, lambda_i = smith_lambda(cos_o, alpha), smith_lambda(abs(cos_i), alpha)
    if cos_i > ZERO:
        h = unit(add(wo, wi))
        facing = dot(wo, h)
        reflectance, _ = dielectric_reflectance(min(facing, ONE), eta)
        density = reflectance * ggx_density(h[2], alpha) / (F(4) * cos_o)
        return density / (ONE + lambda_o + lambda_i), density / (ONE + lambda_o)
    h = add(wo, scale(wi, eta))
    h = unit(h) if h[2] > ZERO else unit(negate(h))
    o_h, i_h = dot(wo, h), dot(wi, h)
    if o_h <= ZERO or i_h >= ZERO:
        return ZERO, ZERO
    reflectance, _ = dielectric_reflectance(min(o_h, ONE), eta)
    k = o_h + eta * i_h
    density = (ONE - reflectance) * ggx_density(h[2], alpha) * o_h * eta * eta * -i_h / (cos_o * k * k)
    seen = density / (ONE + lambda_o)
    return seen / (ONE + lambda_i), seen


@optic
def sample_single_scatter(wo, alpha, eta, u, v, choice):
    """One bounce: (direction, weight = response * |cos| / pdf). A weight of 0 means masked by a neighbour facet."""
    h = sample_visible_normal(wo, alpha, u, v)
    facing = min(max(dot(wo, h), ZERO), ONE)
    reflectance, cos_t = dielectric_reflectance(facing, eta)
    lambda_o = smith_lambda(wo[2], alpha)
    if choice < reflectance:
        wi = reflect(wo, h)
        if wi[2] <= ZERO:
            return wi, ZERO
        return wi, (ONE + lambda_o) / (ONE + lambda_o + smith_lambda(wi[2], alpha))
    wi = refract(wo, h, eta, facing, cos_t)
    if wi[2] >= ZERO:
        return wi, ZERO
    return wi, ONE / (ONE + smith_lambda(-wi[2], alpha))
