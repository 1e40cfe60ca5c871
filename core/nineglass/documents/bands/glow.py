from nineglass.describe import Cut, choice, color_dial, dial
from nineglass.documents.bands import BANDS

TEMPERATURE, WHITE = "temperature", "white of the picture"


@BANDS.kind(title="Glow", family="light", standard="uniform_edf")
class Glow:
    """Light that the surface sends out by itself, evenly to all sides, from above everything that lies on it.

    The same everywhere it lights the stage as a lamp does; driven, it is found by chance only, and settles more slowly.
    """

    rank, most = 0, 1
    why = "glow leaves from the outermost place"
    synonyms = "emission emissive light lamp incandescent shine"
    cut = Cut("rays", ("emission_color",), says={"emission_luminance": "{:.3g}"})

    emission_luminance = dial(
        1.0,
        0.01,
        1000.0,
        hard=(0.0, 1e9),
        label="Luminance",
        scale="log",
        ends=("ember", "blaze"),
        help="How bright it is to look at: 1 is white in the picture at exposure 0.",
        standard="emission_luminance",
        drivable=True,
    )
    source = choice(
        TEMPERATURE,
        WHITE,
        label="White of",
        help="What the colour below filters: a glowing body, or the picture's white.",
    )
    kelvin = dial(
        2700.0,
        1000.0,
        12000.0,
        hard=(500.0, 40000.0),
        label="Temperature",
        unit="K",
        ends=("ember", "blue sky"),
        help="Embers 1000, a candle 1900, a filament 2700, daylight 6500.",
        when=("source", TEMPERATURE),
    )
    emission_color = color_dial(
        (1.0, 1.0, 1.0), label="Colour", help="A filter before the white.", standard="emission_color", drivable=True
    )
