"""Body colour: light thrown back evenly, by rough walls, by grains or by fibres."""

from nineglass.kernels import ONE, optic
from nineglass.optics.diffuse import diffuse_parts, diffuse_value

GRAIN, ROUGHNESS, COLOR = 0, 1, 2


@optic
def albedo(tables, dials, cosine):
    return ONE


@optic
def values(tables, dials, wo, wi):
    """Sources: Portsmouth, Kutz & Hill 2024; Estevez & Kulla 2017; Hapke 1981 (`optics.diffuse`)."""
    single, more, mean = diffuse_parts(tables.diffuse, int(dials[GRAIN]), dials[ROUGHNESS], wo, wi)
    return (
        diffuse_value(single, more, mean, dials[COLOR]),
        diffuse_value(single, more, mean, dials[COLOR + 1]),
        diffuse_value(single, more, mean, dials[COLOR + 2]),
        diffuse_value(single, more, mean, dials[COLOR + 3]),
    )
