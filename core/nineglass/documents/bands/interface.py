from nineglass.describe import dial
from nineglass.documents.bands import BANDS


@BANDS.kind(title="Interface", family="boundary", standard="dielectric_bsdf")
class Interface:
    """The boundary between the matter and what is around it: it reflects, and bends what passes."""

    specular_ior = dial(
        1.52,
        1.0,
        2.6,
        hard=(1.0, 3.0),
        label="Index",
        ends=("air", "diamond"),
        help="How strongly light is bent and reflected: water 1.33, window glass 1.52, diamond 2.42.",
        standard="specular_ior",
        drivable=True,
    )
    specular_roughness = dial(
        0.0,
        0.0,
        1.0,
        label="Roughness",
        ends=("polished", "frosted"),
        help="How rugged the surface is. 0 is polished; 0.3 is satin; 0.6 is frosted.",
        standard="specular_roughness",
        drivable=True,
    )
