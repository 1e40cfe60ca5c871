from nineglass.describe import Cut, choice, color_dial, dial, vector_in
from nineglass.documents.bands import BANDS
from nineglass.documents.sanded import anisotropy_dial, direction_dial
from nineglass.matter.substances import metal_names

TWO_COLORS = "two colours"


@BANDS.kind(title="Metal", family="boundary", standard="conductor_bsdf")
class Metal:
    """A surface of measured metal: it reflects in its own colour and lets nothing through."""

    rank, most = 2, 1
    colored_by = "base_color"
    why = "a metal lets nothing through to what is beneath it"
    excludes = ("interface", "body")
    cut = Cut("plate", worked_out="metal")

    substance = choice(
        *metal_names(),
        TWO_COLORS,
        label="Metal",
        help="Measured metal, or two colours that are seen face-on and at the edge.",
    )
    base_color = color_dial(
        (0.9, 0.62, 0.3), label="Facing colour", standard="base_color", drivable=True, when=("substance", TWO_COLORS)
    )
    specular_color = color_dial(
        (1.0, 0.95, 0.85),
        label="Edge colour",
        help="The tint towards the edge: light stays long, dark dips before the rim.",
        standard="specular_color",
        drivable=True,
        when=("substance", TWO_COLORS),
    )
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
    specular_roughness_anisotropy = anisotropy_dial("specular_roughness_anisotropy")
    specular_direction = direction_dial("specular_roughness_anisotropy")
    normal = vector_in(
        label="Normal", help="A normal of its own, from a bump or a picture.", standard="geometry_normal"
    )
