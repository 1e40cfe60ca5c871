from nineglass.describe import Cut, choice, color_dial, dial, toggle
from nineglass.documents.bands import BANDS

BLACK_BODY, COLORS = "temperature", "colour"
TRUE_DIMNESS, EVEN = "follows the temperature", "is the dial's alone"


@BANDS.kind(title="Flame", family="light", standard="edf")
class Flame:
    """Gas that glows: light that is sent out evenly to all sides at every place within. It has no surface; an interior beside it is its smoke.

    Its dials are driven at places in space.
    """

    rank, most = 4, 1
    excludes = ("interface", "metal", "body", "subsurface", "glow", "coat", "film", "fuzz")
    beyond_splits = True
    why = "a flame is what lies within, and has no surface"
    synonyms = "fire burn emission volume candle wick gas temperature kelvin black body"
    cut = Cut("rays", ("emission_color",), says={"emission_luminance": "{:.3g}"})

    flame_density = dial(
        1.0,
        0.0,
        1.0,
        hard=(0.0, 1e6),
        label="Glowing share",
        ends=("nothing", "all of it"),
        help="How much of what could glow is there: wire the density of a grid here.",
        drivable=True,
    )
    emission_luminance = dial(
        1.0,
        0.01,
        1000.0,
        hard=(0.0, 1e9),
        label="Luminance",
        scale="log",
        ends=("ember", "blaze"),
        help="How bright 1 cm of it is to look at: 1 is white in the picture at exposure 0.",
        standard="emission_luminance",
        drivable=True,
    )
    light_from = choice(BLACK_BODY, COLORS, label="Light from")
    temperature = dial(
        1500.0,
        800.0,
        3000.0,
        hard=(0.0, 40000.0),
        label="Temperature",
        unit="K",
        ends=("ember", "filament"),
        help="Of the glowing soot: 1000 to 1500 in a wood fire, 1400 to 1900 in a candle. Absolute: what comes as 0 to 1 must be made K first.",
        drivable=True,
        when=("light_from", BLACK_BODY),
    )
    dimness = choice(
        TRUE_DIMNESS,
        EVEN,
        label="Brightness",
        help="By Planck's law what is cooler is far dimmer (the luminance above holds at 1500 K), or the luminance is the same at every temperature.",
        when=("light_from", BLACK_BODY),
    )
    emission_color = color_dial(
        (1.0, 0.55, 0.2),
        hard=(0, 1000),
        label="Colour",
        help="Of the light; wire a ramp here.",
        standard="emission_color",
        drivable=True,
        when=("light_from", COLORS),
    )
    most_luminance = dial(
        1000.0,
        0.1,
        1000.0,
        hard=(0.001, 1e9),
        label="At most",
        scale="log",
        ends=("tame", "blown out"),
        help="Holds what runs past it: no cm of the flame is brighter.",
    )
    lights = toggle(
        True,
        label="Lights what is around",
        help="Off where a lamp takes its place: then the flame is seen, by the eye and in mirrors, and lights nothing.",
    )
