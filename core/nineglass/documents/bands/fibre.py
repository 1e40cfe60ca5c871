from nineglass.describe import Cut, choice, color_dial, curve, dial
from nineglass.documents.bands import BANDS

PIGMENT, SEEN, DYE = "pigment", "colour seen", "dye"


@BANDS.kind(title="Fibre", family="matter", standard="chiang_hair_bsdf")
class Fibre:
    """What strands are made of: light is mirrored at each of them, passes through it, and is mirrored within it.

    It is worn by strands (Stage), which grow on another object. Position, Normal and Texture coordinates are those of the skin at the root.
    """

    rank, most = 2, 1
    colored_by = "fibre_color"
    excludes = (
        *("interface", "metal", "body", "interior", "subsurface"),
        *("coat", "film", "fuzz", "glow", "flame"),
    )
    why = "a fibre is all that there is of a strand"
    synonyms = "hair fur pelt brush bristle wool strand melanin"
    cut = Cut("strand", ("fibre_color",), worked_out="fibre", says={"fibre_ior": "n {:.2f}"})

    color_from = choice(
        PIGMENT,
        SEEN,
        DYE,
        label="Colour from",
        help="Pigment: melanin, as grown. Colour seen: what a thick pelt is to look like; each strand by itself is paler. Dye: a curve.",
    )
    eumelanin = dial(
        1.0,
        0.0,
        8.0,
        hard=(0.0, 1000.0),
        label="Eumelanin",
        ends=("white", "black"),
        help="Brown to black: 0.3 blond, 1.3 brown, 8 black (common practice).",
        drivable=True,
        when=("color_from", PIGMENT),
    )
    pheomelanin = dial(
        0.2,
        0.0,
        8.0,
        hard=(0.0, 1000.0),
        label="Pheomelanin",
        ends=("none", "red"),
        help="Yellow to red.",
        drivable=True,
        when=("color_from", PIGMENT),
    )
    fibre_color = color_dial(
        (0.32, 0.2, 0.12),
        label="Colour",
        help="Of a thick pelt under even light; wire the colour of the skin here.",
        drivable=True,
        when=("color_from", SEEN),
    )
    transmittance = curve(
        [[400.0, 0.35], [480.0, 0.5], [560.0, 0.9], [640.0, 0.97], [700.0, 0.98]],
        label="Passes",
        help="The share of light of each wavelength that goes straight through the middle of one strand.",
        when=("color_from", DYE),
    )
    dye_amount = dial(
        1.0,
        0.0,
        4.0,
        hard=(0.0, 1000.0),
        label="Amount of dye",
        ends=("none", "deep"),
        drivable=True,
        when=("color_from", DYE),
    )
    longitudinal_roughness = dial(
        0.3,
        0.05,
        1.0,
        hard=(0.0, 1.0),
        label="Roughness along",
        ends=("glassy", "dull"),
        help="How long the highlights are along the strands.",
        standard="longitudinal",
        drivable=True,
    )
    azimuthal_roughness = dial(
        0.35,
        0.05,
        1.0,
        hard=(0.0, 1.0),
        label="Roughness around",
        ends=("glassy", "soft"),
        help="How evenly light goes around a strand: soft makes a pelt milky.",
        standard="azimuthal",
        drivable=True,
    )
    cuticle_angle = dial(
        2.5,
        0.0,
        8.0,
        hard=(-20.0, 20.0),
        label="Cuticle tilt",
        unit="deg",
        ends=("smooth", "scaly"),
        help="Of the scales: parts the second highlight from the first.",
        standard="cuticle_angle",
        drivable=True,
    )
    fibre_ior = dial(
        1.55, 1.3, 1.8, hard=(1.05, 3.0), label="Index", ends=("wet", "dense"), standard="ior", drivable=True
    )
    highlight = dial(
        1.0,
        0.0,
        1.0,
        label="Highlight",
        ends=("none", "true"),
        help="How much of the light that the index mirrors is mirrored; what is left goes into the strand.",
        drivable=True,
    )
    highlight_tint = color_dial((1.0, 1.0, 1.0), label="Highlight tint", standard="tint_R", drivable=True)
    second_highlight = dial(
        1.0,
        0.0,
        1.0,
        label="Second highlight",
        ends=("none", "true"),
        help="Of what is mirrored within.",
        drivable=True,
    )
    second_tint = color_dial((1.0, 1.0, 1.0), label="Second tint", standard="tint_TRT", drivable=True)
    passing = dial(
        1.0, 0.0, 1.0, label="Light through", ends=("none", "true"), help="Of what goes through.", drivable=True
    )
    passing_tint = color_dial((1.0, 1.0, 1.0), label="Tint of light through", standard="tint_TT", drivable=True)
    medulla = dial(
        0.0,
        0.0,
        1.0,
        label="Medulla",
        ends=("clear", "milky"),
        help="The share of the light through it that the core scatters around: high in fur, low in human hair.",
        drivable=True,
    )
    density = dial(
        1.0,
        0.0,
        1.0,
        label="Density",
        ends=("bald", "all"),
        help="The share of the strands that stand; read at each root.",
        drivable=True,
    )
    strand_length = dial(
        1.0,
        0.0,
        1.0,
        label="Length",
        ends=("shorn", "full"),
        help="Of what the form says; read at each root.",
        drivable=True,
    )
