from nineglass.describe import color_dial, dial
from nineglass.documents.bands import BANDS


@BANDS.kind(title="Body colour", family="matter", standard="oren_nayar_diffuse_bsdf")
class Body:
    """Colour in the surface itself, as of paint: light that passes the interface is thrown back evenly."""

    base_color = color_dial((0.5, 0.7, 0.55), label="Colour", standard="base_color")
    base_weight = dial(
        1.0,
        0.0,
        1.0,
        label="Amount",
        ends=("clear", "opaque"),
        help="The share of light that is thrown back; the rest goes on into the interior.",
        standard="base_weight",
    )
