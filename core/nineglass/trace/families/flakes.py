"""Flakes in a coat: which of them a path meets, and how it lies.

Each flake is the part of a surface that is nearest to one point of a jittered lattice in the axes of the form (Worley 1996), so that flakes
lie on any form without a seam and turn with it. From near a flake is a facet with a lean of its own; where a pixel sees many of them, they
are one rough surface whose facets lean as they do, so that nothing crawls (Olano & Baker 2010, LEAN Mapping: what leans becomes roughness).
The leans of single flakes and the facets of the sheen are drawn from one distribution, that of the normals that are seen (Heitz 2014), so
both reflect as much.
"""

from math import floor, sqrt, tan

import numpy as np

from nineglass.documents.bands.flakes import CLEAR_PLATE, COLORS
from nineglass.kernels import HALF, ONE, ZERO, F, optic, step
from nineglass.matter.material import between_stops
from nineglass.matter.substances import substances
from nineglass.optics.microfacet import sample_visible_normal
from nineglass.spectra.upsampling import coefficients_of
from nineglass.trace.random import U, mix_bits
from nineglass.vectors import smooth

OF_METAL, OF_PLATES, OF_COLORS = 1, 2, 3
"""What `Rows.flakes` holds."""

RAMP_STEPS = 32

SINGLE_TO, SHEEN_FROM = F(0.5), F(2)
"""Pixels as wide as this share of a flake show single flakes; as wide as so many flakes, their sheen; those between, part of each."""

PRESENT, ACROSS, ALONG, TONE, LARGE = U(0x51F15EED), U(0x2545F491), U(0x3C6EF372), U(0x7F4A7C15), U(0x1B873593)
"""What keeps a flake's random numbers apart."""

SHEEN_POWER = F(1.38)
"""By which the widths of two GGX lobes add: see `alpha_of_sheen`."""

SMOOTHEST_FLAKE = F(2e-3)
"""Flakes are at least so rugged (alpha) that lamps can be asked for."""


@optic
def own_number(bits, which):
    """A random number of a flake's own, in [0, 1)."""
    return F(U(mix_bits(U(bits) ^ U(which))) >> U(8)) * F(1 / 2**24)


@optic
def flake_at(x, y, z, spread):
    """The bits that stand for the flake at a place, given in sizes of a flake. spread: of sizes, 0 to 1."""
    cx, cy, cz = floor(x), floor(y), floor(z)
    nearest, found = F(1e9), U(0)
    for k in range(27):
        ix, iy, iz = cx + k % 3 - 1, cy + (k // 3) % 3 - 1, cz + k // 9 - 1
        bits = U(mix_bits(U(ix) * U(0x9E3779B1) ^ U(iy) * U(0x85EBCA77) ^ U(iz) * U(0xC2B2AE3D)))
        dx = F(ix) + F(bits & U(1023)) * F(1 / 1024) - x
        dy = F(iy) + F((bits >> U(10)) & U(1023)) * F(1 / 1024) - y
        dz = F(iz) + F((bits >> U(20)) & U(1023)) * F(1 / 1024) - z
        away = dx * dx + dy * dy + dz * dz
        if spread > ZERO:
            large = ONE + spread * (own_number(bits, LARGE) - HALF)
            away /= large * large
        if away < nearest:
            nearest, found = away, bits
    return U(mix_bits(found))


@optic
def share_of_sheen(pixel, size):
    """The share of paths that see flakes of a size as a sheen. pixel: how wide a pixel of the picture is there."""
    wide = pixel / size
    return smooth(min(max((wide - SINGLE_TO) / (SHEEN_FROM - SINGLE_TO), ZERO), ONE))


@optic
def alpha_of_lean(degrees):
    """The GGX width of facets half of which lean by more than an angle (Walter et al. 2007, eq. 35, at one half)."""
    return min(max(tan(degrees * F(np.pi / 180)), F(1e-3)), ONE)


@optic
def lean_of(wo, alpha, bits):
    """The normal of a single flake as it is seen from wo."""
    return sample_visible_normal(wo, alpha, own_number(bits, ACROSS), own_number(bits, ALONG))


@optic
def alpha_of_sheen(lean, own):
    """The GGX width of many flakes together, by the median of how steep their facets are. lean: width of their leans; own: of each flake.

    GGX has heavier tails than a normal distribution, whose widths would add by their squares. That of slopes that add up (the transform of one is
    a k K1(a k)) was integrated for own/lean from 0.05 to 1: this power is met within 1.2 %. No surface is rougher than 1.
    """
    return min((lean**SHEEN_POWER + own**SHEEN_POWER) ** (ONE / SHEEN_POWER), ONE)


@step
def below_coat(wo, index, before):
    """A direction as it is under a level coat."""
    eta = index / before
    sine = (ONE - wo[2] * wo[2]) / (eta * eta)
    return wo[0] / eta, wo[1] / eta, sqrt(max(ONE - sine, F(1e-4)))


def row_of_flakes(side) -> dict:
    """Fields of `layers.Rows` about flakes. side: `matter.Side`."""
    leaf = side.leaf
    made = {
        "flakes": 0,
        "flakes_under": 0,
        "flake_size": 1.0,
        "size_spread": 0.0,
        "flake_index": np.zeros(401),
        "flake_extinction": np.zeros(401),
        "flake_ramp": np.zeros((RAMP_STEPS, 3)),
    }
    if "flakes" not in leaf.order:
        return made
    dials = side.settled("flakes")
    above = leaf.order[: leaf.order.index("flakes")]
    matter = dials["flake_matter"]
    made |= {
        "flakes": {CLEAR_PLATE: OF_PLATES, COLORS: OF_COLORS}.get(matter, OF_METAL),
        "flakes_under": sum(leaf.kinds[slot] == "coat" for slot in above),
        "flake_size": dials["flake_size"] / 1000,
        "size_spread": dials["size_spread"],
    }
    if made["flakes"] == OF_METAL:
        made |= {"flake_index": substances()[matter].index, "flake_extinction": substances()[matter].extinction}
    if made["flakes"] == OF_COLORS:
        colors = between_stops(dials["flake_colors"], np.linspace(0, 1, RAMP_STEPS))
        made["flake_ramp"] = np.array([coefficients_of(*np.clip(color, 0, 1)) for color in colors])
    return made
