from nineglass.describe import Cut, choice, color_dial, curve, dial
from nineglass.documents.bands import BANDS
from nineglass.matter.dyes import OWN, dye_names
from nineglass.matter.scatterers import scatterer_names
from nineglass.matter.substances import clear_names

COLOR, SUBSTANCE, DYES, CURVE = "colour at depth", "substance", "dyes", "curve"
PALE = [[400, 0.2], [450, 0.45], [520, 0.8], [600, 0.5], [700, 0.3]]
"""A transmittance to begin with."""

ONE_LOBE, TWO_LOBES, AIR_MOLECULES, DROPLETS = "one lobe", "two lobes", "molecules", "droplets"


def _amount(number: int):
    about = {"hard": (0.0001, 10000), "scale": "log", "unit": "g/l", "ends": ("trace", "strong")}
    return dial(1.0, 0.001, 100, label=f"Amount {number}", when=("absorption", DYES), **about)


def _dye(number: int):
    return choice(*dye_names(), label=f"Dye {number}", when=("absorption", DYES))


def _own(number: int):
    about = "The share of light that is left after 1 cm of 1 g/l of this dye, over wavelength."
    return curve(PALE, label=f"Dye {number} lets through", help=about, when=(f"dye_{number}", OWN))


@BANDS.kind(title="Interior", family="matter", standard="anisotropic_vdf")
class Interior:
    """The matter inside: it takes a share of the light for each length that light travels in it, and scatters another.

    When its dials are driven they are read where light enters; without an interface, at each place within.
    """

    rank, most = 4, 1
    colored_by = "transmission_color"
    excludes = ("subsurface",)
    why = "the interior is what everything else encloses"
    cut = Cut("matter", ("transmission_color",))

    absorption = choice(COLOR, SUBSTANCE, DYES, CURVE, label="Absorption from")
    transmission_color = color_dial(
        (1.0, 1.0, 1.0),
        label="Transmission colour",
        help="The colour of white light after it has gone as deep as the depth below.",
        standard="transmission_color",
        drivable=True,
        when=("absorption", COLOR),
    )
    transmission_depth = dial(
        2.0,
        0.05,
        100.0,
        hard=(0.001, 100000.0),
        label="at depth",
        unit="cm",
        scale="log",
        ends=("inky", "water-clear"),
        help="The depth at which the transmission colour is reached. Half of it squares the colour.",
        standard="transmission_depth",
        drivable=True,
    )
    substance = choice(*clear_names(), label="Substance", when=("absorption", SUBSTANCE))
    dye_1, own_1, amount_1 = _dye(1), _own(1), _amount(1)
    dye_2, own_2, amount_2 = _dye(2), _own(2), _amount(2)
    dye_3, own_3, amount_3 = _dye(3), _own(3), _amount(3)
    dye_4, own_4, amount_4 = _dye(4), _own(4), _amount(4)
    transmittance = curve(
        PALE,
        label="Transmittance",
        help="The share of light left at the depth above, over wavelength.",
        when=("absorption", CURVE),
    )
    concentration = dial(
        1.0,
        0.01,
        100.0,
        hard=(0.0001, 100000.0),
        label="Concentration",
        scale="log",
        ends=("diluted", "concentrated"),
        help="Dilutes or concentrates whatever absorbs: 2 takes the same light in half the length.",
    )
    density = dial(
        1.0,
        0.01,
        100.0,
        hard=(0.0, 1e6),
        label="Density",
        scale="log",
        ends=("nothing", "thick"),
        help="How much of the matter is there: it absorbs and scatters so many times as much. Without an interface it is driven at places in space: fog, smoke.",
        drivable=True,
    )
    scatter_amount = dial(
        0.0,
        0.01,
        1000.0,
        hard=(0.0, 1e6),
        label="Scattering",
        scale="log",
        ends=("clear", "ceramic"),
        help="How often light is scattered on a way as long as the depth above: 0.1 is a haze, 10 is milk. Of a measured matter: times as strong.",
        drivable=True,
    )
    scattering = choice(COLOR, SUBSTANCE, CURVE, label="Scattering from")
    transmission_scatter = color_dial(
        (1.0, 1.0, 1.0),
        label="Scattered colour",
        help="Which light is scattered; it is the colour of the haze, and what is left shines through.",
        standard="transmission_scatter",
        drivable=True,
        when=("scattering", COLOR),
    )
    scatterer = choice(
        *scatterer_names(),
        label="Scattering matter",
        when=("scattering", SUBSTANCE),
        brings={"scattering": SUBSTANCE, "scatter_amount": 1.0},
    )
    scatter_curve = curve(
        [[400, 1.0], [500, 0.41], [600, 0.2], [700, 0.11]],
        label="Scattered share",
        quantity="other",
        help="How much of each wavelength is scattered, of the scattering above.",
        when=("scattering", CURVE),
    )
    transmission_scatter_anisotropy = dial(
        0.0,
        -0.9,
        0.95,
        hard=(-0.99, 0.99),
        label="Anisotropy",
        ends=("back", "onward"),
        help="The mean cosine by which scattered light turns: 0 to all sides alike, 0.9 hardly from its way.",
        standard="transmission_scatter_anisotropy",
        drivable=True,
    )
    phase = choice(
        ONE_LOBE,
        TWO_LOBES,
        AIR_MOLECULES,
        DROPLETS,
        label="Turns as",
        help="Lobes of Henyey and Greenstein by their mean cosine; molecules of air as Rayleigh found; droplets of fog as Mie did.",
    )
    second_anisotropy = dial(
        -0.3,
        -0.9,
        0.95,
        hard=(-0.99, 0.99),
        label="Second lobe",
        ends=("back", "onward"),
        help="The mean cosine of the second lobe.",
        when=("phase", TWO_LOBES),
    )
    second_share = dial(
        0.2,
        0.0,
        1.0,
        label="Its share",
        ends=("first alone", "second alone"),
        help="How much of what is scattered goes by the second lobe.",
        when=("phase", TWO_LOBES),
    )
    droplet_diameter = dial(
        8.0,
        0.5,
        32.0,
        label="Droplets",
        unit="um",
        scale="log",
        ends=("haze", "drizzle"),
        help="The diameter of droplets of water; of fog 5 to 20.",
        when=("phase", DROPLETS),
    )
