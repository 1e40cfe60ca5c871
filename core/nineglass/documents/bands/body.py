from nineglass.describe import Cut, choice, color_dial, dial, vector_in
from nineglass.documents.bands import BANDS

EVEN, GRAINY, VELVET = "even", "grainy", "velvet"


@BANDS.kind(title="Body colour", family="matter", standard="oren_nayar_diffuse_bsdf")
class Body:
    """Colour in the surface itself, as of paint, wood or clay: light that passes the interface is thrown back."""

    rank, most = 3, 1
    colored_by = "base_color"
    why = "body colour lies beneath the boundary"
    cut = Cut("grains", ("base_color",))
    lobe, lies, amount = "nineglass.optics.lobes.body", "bottom", "base_weight"

    grain = choice(
        EVEN,
        GRAINY,
        VELVET,
        label="Grain",
        help="Even: paint and clay. Grainy: dust and chalk, flat to the rim. Velvet: short fibres, bright at the rim.",
    )
    base_color = color_dial((0.5, 0.7, 0.55), label="Colour", standard="base_color", drivable=True)
    base_diffuse_roughness = dial(
        0.0,
        0.0,
        1.0,
        label="Roughness",
        ends=("smooth", "rough"),
        help="Rough: flatter, and brighter when lit from behind the eye (Oren and Nayar).",
        standard="base_diffuse_roughness",
        drivable=True,
    )
    shade_edge = dial(
        0.5,
        0.0,
        1.0,
        label="Edge of the shade",
        ends=("sharp", "soft"),
        help="How light fades towards the shade: 0.5 is true of matter; to either side it is a stylised look, of the same energy.",
        drivable=True,
    )
    base_weight = dial(
        1.0,
        0.0,
        1.0,
        label="Amount",
        ends=("clear", "opaque"),
        help="The share of light that is thrown back; the rest goes on into the interior.",
        standard="base_weight",
        drivable=True,
    )
    normal = vector_in(
        label="Normal", help="A normal of its own, from a bump or a picture.", standard="geometry_normal"
    )
