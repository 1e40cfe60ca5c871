from nineglass.describe import color_dial, dial, gives
from nineglass.network.slips import SLIPS


@SLIPS.kind(title="Number", family="constant", standard="constant")
class Number:
    """One number, to drive several dials at once."""

    value = dial(0.5, 0, 1, hard=(-100000, 100000), ends=("less", "more"))
    out = gives("number")

    def emit(self, ops, dials):
        return dials.value


@SLIPS.kind(title="Colour", family="constant", standard="constant")
class Color:
    """One colour, to drive several dials at once."""

    value = color_dial((0.35, 0.7, 0.5), hard=(0, 1000), label="Colour")
    out = gives("color")

    def emit(self, ops, dials):
        return dials.value
