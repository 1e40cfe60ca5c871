from nineglass.describe import choice, dial
from nineglass.documents.bands import BANDS
from nineglass.matter.substances import metal_names


@BANDS.kind(title="Metal", family="boundary", standard="conductor_bsdf")
class Metal:
    """A surface of measured metal: it reflects in its own colour and lets nothing through."""

    substance = choice(*metal_names(), label="Metal")
    specular_roughness = dial(
        0.1,
        0.0,
        1.0,
        label="Roughness",
        ends=("polished", "blasted"),
        help="How rugged the surface is.",
        standard="specular_roughness",
        drivable=True,
    )
