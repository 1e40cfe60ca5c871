from nineglass.describe import Cut, choice, color_dial, color_stops, dial, vector_in
from nineglass.documents.bands import BANDS
from nineglass.documents.sanded import anisotropy_dial, direction_dial
from nineglass.matter.substances import NONE, clear_names

TRUE_FAN, CHOSEN_FAN = "true", "recoloured"


@BANDS.kind(title="Interface", family="boundary", standard="dielectric_bsdf")
class Interface:
    """The boundary between the matter and what is around it: it reflects, and bends what passes."""

    rank, most = 2, 1
    why = "matter begins at its boundary"
    plain = True
    cut = Cut("boundary", says={"specular_ior": "n {:.3f}"})

    substance = choice(
        *clear_names(),
        label="Substance",
        help="Measured matter whose index over wavelength is used in place of the dial.",
        brings={"transmission_dispersion_scale": 1.0},
    )
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
        when=("substance", NONE),
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
    specular_roughness_anisotropy = anisotropy_dial("specular_roughness_anisotropy")
    specular_direction = direction_dial("specular_roughness_anisotropy")
    normal = vector_in(
        label="Normal", help="A normal of its own, from a bump or a picture.", standard="geometry_normal"
    )
    transmission_dispersion_scale = dial(
        0.0,
        0.0,
        5.0,
        hard=(0.0, 50.0),
        label="Dispersion",
        ends=("none", "exaggerated"),
        help="How much the index changes over wavelength: 0 not at all, 1 as in nature, more for show.",
        standard="transmission_dispersion_scale",
    )
    transmission_dispersion_abbe_number = dial(
        55.0,
        10.0,
        100.0,
        hard=(5.0, 1000.0),
        label="Abbe number",
        scale="log",
        ends=("wide fan", "narrow fan"),
        help="Low for flint (30), high for crown (64); diamond 55.",
        standard="transmission_dispersion_abbe_number",
        when=("substance", NONE),
    )
    tint = color_dial(
        (1.0, 1.0, 1.0),
        label="Surface tint",
        help="Colours what passes through the surface, in and out again: one hue at any thickness.",
    )
    specular_color = color_dial(
        (1.0, 1.0, 1.0),
        label="Reflection tint",
        help="Tints what is mirrored from outside. White is true of clear matter.",
        standard="specular_color",
    )
    fan = choice(
        TRUE_FAN,
        CHOSEN_FAN,
        label="Fan of colours",
        help="Shows light that was dispersed in chosen colours. White light that comes together again stays white.",
    )
    fan_colors = color_stops(
        [[0.0, [0.3, 0.0, 0.8]], [0.5, [0.0, 0.8, 0.6]], [1.0, [1.0, 0.3, 0.1]]],
        label="Fan colours",
        help="Over wavelength, from 420 nm to 680 nm.",
        when=("fan", CHOSEN_FAN),
    )
