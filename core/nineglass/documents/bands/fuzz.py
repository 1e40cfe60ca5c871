from nineglass.describe import Cut, color_dial, dial, vector_in
from nineglass.documents.bands import BANDS


@BANDS.kind(title="Fuzz", family="layer", standard="sheen_bsdf")
class Fuzz:
    """Fine fibres or dust that stand on the surface and light up at a slant."""

    rank, most = 0, 1
    why = "fuzz stands on top of everything"
    cut = Cut("fibres", ("fuzz_color",))
    lobe, lies, amount = "nineglass.optics.lobes.fuzz", "top", "fuzz_weight"

    fuzz_weight = dial(0.5, 0.0, 1.0, label="Amount", ends=("none", "thick"), standard="fuzz_weight", drivable=True)
    fuzz_color = color_dial((1.0, 1.0, 1.0), label="Colour", standard="fuzz_color", drivable=True)
    fuzz_roughness = dial(
        0.5,
        0.05,
        1.0,
        hard=(0.01, 1.0),
        label="Roughness",
        ends=("rim only", "dusty"),
        help="Low: a thin bright rim. High: dust over the whole form.",
        standard="fuzz_roughness",
        drivable=True,
    )
    normal = vector_in(label="Normal", help="A normal of its own, from a bump or a picture.", standard="normal")
