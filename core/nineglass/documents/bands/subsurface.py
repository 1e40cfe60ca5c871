from nineglass.describe import Cut, Rest, choice, color_dial, dial
from nineglass.documents.bands import BANDS

ALL_OF_THEM, ONCE = "all", "the first only"


@BANDS.kind(title="Subsurface", family="matter", standard="subsurface_bsdf")
class Subsurface:
    """Matter that light gets into and wanders about in, as wax, tooth, skin, jade: told by the colour that comes out again and by how far light goes.

    It takes the place of the interior. When its dials are driven they are read where light enters.
    """

    rank, most = 4, 1
    colored_by = "subsurface_color"
    excludes = ("interior", "metal")
    why = "what light wanders in is what everything else encloses"
    synonyms = "sss scattering translucent wax skin milk marble jade tooth"
    cut = Cut("matter", ("subsurface_color",), says={"subsurface_radius": "{:.3g} cm"})
    rest = Rest("subsurface_weight", "body", {"base_color": "subsurface_color"})

    subsurface_weight = dial(
        1.0,
        0.0,
        1.0,
        label="Amount",
        ends=("body colour", "all within"),
        help="How much of the light wanders in it; the rest is thrown back at the surface in the same colour, as by body colour: the cheap way.",
        standard="subsurface_weight",
        drivable=True,
    )
    subsurface_color = color_dial(
        (0.85, 0.74, 0.58),
        label="Colour",
        help="The share of the light that got in which comes out again, whatever the mean free path.",
        standard="subsurface_color",
        drivable=True,
    )
    subsurface_radius = dial(
        0.1,
        0.001,
        10.0,
        hard=(1e-5, 1e5),
        label="Mean free path",
        unit="cm",
        scale="log",
        ends=("ceramic", "glassy"),
        help="How far light goes until it is scattered or absorbed: a tenth of the form is milky, a hundredth is chalk.",
        standard="subsurface_radius",
        drivable=True,
    )
    subsurface_radius_scale = color_dial(
        (1.0, 0.5, 0.25),
        label="By colour",
        help="How far red, green and blue go, of the mean free path: red goes farthest in wax and skin.",
        standard="subsurface_radius_scale",
        drivable=True,
    )
    subsurface_scatter_anisotropy = dial(
        0.0,
        -0.9,
        0.9,
        hard=(-0.95, 0.95),
        label="Anisotropy",
        ends=("back", "onward"),
        help="The mean cosine by which scattered light turns: 0 to all sides alike.",
        standard="subsurface_scatter_anisotropy",
        drivable=True,
    )
    scatterings = choice(
        ALL_OF_THEM,
        ONCE,
        label="Scatterings",
        help="Untrue: the first only is a thin, glassy look, and darker than the colour that is asked for.",
    )
    from_behind = dial(
        1.0,
        0.0,
        4.0,
        hard=(0.0, 100.0),
        label="From behind",
        ends=("none", "glowing"),
        help="Untrue but for 1: how strong the light is that goes on through the matter, against that which turns back.",
    )
