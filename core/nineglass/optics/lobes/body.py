"""Body colour: light thrown back evenly, by rough walls, by grains or by fibres."""

from nineglass.kernels import HALF, ONE, F, optic
from nineglass.optics.diffuse import diffuse_parts, diffuse_value

GRAIN, ROUGHNESS, EDGE, COLOR = 0, 1, 2, 3
MOST_POWER = F(2.5)
"""The power of the cosine of the softest edge; that of the sharpest is one over it."""


@optic
def edged(edge, cosine):
    """What light from a lamp at a cosine is weighed by, of the same mean over a matt surface: the cosine to another power (the look only)."""
    if edge == HALF:
        return ONE
    power = MOST_POWER ** (min(edge, ONE) * F(2) - ONE)
    return HALF * (power + ONE) * max(cosine, F(1e-3)) ** (power - ONE)


@optic
def albedo(tables, dials, cosine):
    return ONE


@optic
def values(tables, dials, wo, wi):
    """Sources: Portsmouth, Kutz & Hill 2024; Estevez & Kulla 2017; Hapke 1981 (`optics.diffuse`)."""
    single, more, mean = diffuse_parts(tables.diffuse, int(dials[GRAIN]), dials[ROUGHNESS], wo, wi)
    edge = edged(dials[EDGE], wi[2])
    single, more = single * edge, more * edge
    return (
        diffuse_value(single, more, mean, dials[COLOR]),
        diffuse_value(single, more, mean, dials[COLOR + 1]),
        diffuse_value(single, more, mean, dials[COLOR + 2]),
        diffuse_value(single, more, mean, dials[COLOR + 3]),
    )
