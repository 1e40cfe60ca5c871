from nineglass.describe import Cut, dial
from nineglass.documents.bands import BANDS


@BANDS.kind(title="Split", family="layer", standard="mix")
class Split:
    """Divides what lies beneath into two stacks of bands, side by side, by a mask."""

    rank, most = 1, 1
    why = "a split lies above the bands of its two sides"
    splits = True
    cut = Cut("columns", says={"mask": "mask {:.2f}"})

    mask = dial(
        0.5,
        0.0,
        1.0,
        label="Mask",
        ends=("all first", "all second"),
        help="Where it is 0 the first stack shows, where it is 1 the second.",
        standard="mix",
        drivable=True,
    )
