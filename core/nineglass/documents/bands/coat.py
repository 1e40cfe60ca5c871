from nineglass.describe import Cut, color_dial, dial, vector_in
from nineglass.documents.bands import BANDS
from nineglass.documents.sanded import anisotropy_dial, direction_dial


@BANDS.kind(title="Coat", family="layer", standard="coat")
class Coat:
    """A clear or tinted varnish over everything beneath it, with a highlight of its own.

    What lies beneath is seen through it: darker and deeper, since light is thrown back and forth under the varnish.
    """

    rank, most = 1, 2
    why = "a coat lies on the boundary, under any fuzz"
    cut = Cut("varnish", ("coat_color",), says={"coat_ior": "n {:.2f}"})

    coat_weight = dial(
        1.0,
        0.0,
        1.0,
        label="Amount",
        ends=("bare", "covered"),
        help="The share of the surface that is coated.",
        standard="coat_weight",
        drivable=True,
    )
    coat_color = color_dial(
        (1.0, 1.0, 1.0),
        label="Colour",
        help="The colour of light that went down through the coat and up again, straight; it deepens at a slant.",
        standard="coat_color",
        drivable=True,
    )
    coat_roughness = dial(
        0.0,
        0.0,
        1.0,
        label="Roughness",
        ends=("polished", "matt"),
        help="How rugged the top of the coat is.",
        standard="coat_roughness",
        drivable=True,
    )
    coat_roughness_anisotropy = anisotropy_dial("coat_roughness_anisotropy")
    coat_direction = direction_dial("coat_roughness_anisotropy")
    coat_ior = dial(
        1.5,
        1.0,
        2.2,
        hard=(1.0, 3.0),
        label="Index",
        ends=("air", "heavy"),
        help="Varnish and lacquer about 1.5.",
        standard="coat_ior",
        drivable=True,
    )
    normal = vector_in(label="Normal", help="A normal of its own, from a bump or a picture.", standard="coat_normal")
