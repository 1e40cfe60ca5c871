"""Fine fibres that stand on a surface."""

from nineglass.kernels import optic
from nineglass.optics.diffuse import VELVET, albedo_at, diffuse_parts

ROUGHNESS, COLOR = 0, 1


@optic
def albedo(tables, dials, cosine):
    return albedo_at(tables.diffuse, VELVET, dials[ROUGHNESS], cosine)


@optic
def values(tables, dials, wo, wi):
    """Source: Estevez & Kulla 2017."""
    single, _, _ = diffuse_parts(tables.diffuse, VELVET, dials[ROUGHNESS], wo, wi)
    return dials[COLOR] * single, dials[COLOR + 1] * single, dials[COLOR + 2] * single, dials[COLOR + 3] * single
