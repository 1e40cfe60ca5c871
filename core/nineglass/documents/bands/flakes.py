from nineglass.describe import Cut, choice, color_stops, dial
from nineglass.documents.bands import BANDS
from nineglass.matter.substances import metal_names

CLEAR_PLATE, COLORS = "clear plate", "colours"


@BANDS.kind(title="Flakes", family="layer")
class Flakes:
    """Platelets that float in the coat above, each with its own place, lean and colour: glints from near, a sheen from far.

    What lies beneath is seen between them, and through them when they are clear.
    """

    rank, most = 1, 1
    why = "flakes float above the boundary"
    synonyms = "glitter mica pearl metallic"
    cut = Cut("flakes", worked_out="flakes", says={"flake_size": "{:.2f} mm"})

    flake_matter = choice(
        "aluminium",
        CLEAR_PLATE,
        COLORS,
        *(name for name in metal_names() if name != "aluminium"),
        label="Matter",
        help="Measured metal; a clear plate as of mica, which mirrors one colour and lets the rest through; or metal in colours of a ramp.",
    )
    flakes_coverage = dial(
        0.35,
        0.0,
        1.0,
        label="Coverage",
        ends=("none", "all over"),
        help="The share of the surface that flakes cover. A metallic paint 0.3 to 0.7, glitter up to 1.",
        drivable=True,
    )
    flake_size = dial(
        0.25,
        0.02,
        10.0,
        hard=(0.005, 200.0),
        label="Size",
        unit="mm",
        scale="log",
        ends=("mica dust", "spangles"),
        help="How wide a flake is. There are about 1.4 in a square of that side where they cover everything.",
    )
    size_spread = dial(
        0.4,
        0.0,
        1.0,
        label="Spread of sizes",
        ends=("alike", "large and small"),
        help="How much sizes differ.",
    )
    flake_lean = dial(
        7.0,
        0.0,
        30.0,
        hard=(0.0, 45.0),
        label="Lean",
        unit="deg",
        ends=("flat", "all ways"),
        help="Half of the flakes lean by more than this.",
        drivable=True,
    )
    flake_roughness = dial(
        0.15,
        0.0,
        1.0,
        label="Roughness",
        ends=("mirrors", "dull"),
        help="How rugged each flake is by itself.",
        drivable=True,
    )
    flake_depth = dial(
        0.3,
        0.0,
        1.0,
        label="Depth",
        ends=("at the top", "at the bottom"),
        help="How deep in the coat above they float: the deeper, the more of its colour lies over them.",
        drivable=True,
    )
    plate_thickness = dial(
        240.0,
        0.0,
        1000.0,
        hard=(0.0, 100000.0),
        label="Plate thickness",
        unit="nm",
        ends=("unseen", "many orders"),
        help="It says which colour is mirrored.",
        drivable=True,
        when=("flake_matter", CLEAR_PLATE),
    )
    flake_film_thickness = dial(
        0.0,
        0.0,
        1000.0,
        hard=(0.0, 100000.0),
        label="Film thickness",
        unit="nm",
        ends=("bare", "many orders"),
        help="Of a film on each flake of metal.",
        drivable=True,
    )
    flake_film_ior = dial(
        2.3,
        1.0,
        2.6,
        hard=(1.0, 4.0),
        label="Film index",
        ends=("air", "titania"),
        help="Of film and plate: titania about 2.3, mica 1.58.",
        drivable=True,
    )
    flake_film_spread = dial(
        0.15,
        0.0,
        1.0,
        label="Spread of films",
        ends=("alike", "all colours"),
        help="How much thickness differs from flake to flake.",
        drivable=True,
    )
    flake_colors = color_stops(
        [[0.0, [0.75, 0.12, 0.1]], [0.5, [0.9, 0.62, 0.15]], [1.0, [0.15, 0.3, 0.75]]],
        label="Colours",
        help="Each flake takes one of these by chance.",
        when=("flake_matter", COLORS),
    )
