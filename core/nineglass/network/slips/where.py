from math import pi

from nineglass.describe import choice, dial, gives, toggle
from nineglass.network.slips import SLIPS


@SLIPS.kind(title="Facing", family="where", standard="facingratio")
class Facing:
    """How squarely the surface faces the eye: 1 face-on, 0 at the rim."""

    scale = choice("cosine", "angle", help="Follow the cosine of the angle, or the angle itself.")
    bias = dial(0.5, 0.02, 0.98, ends=("rim", "centre"), help="Moves the middle of the range (Schlick 1994).")
    gain = dial(0.5, 0.02, 0.98, ends=("soft", "steep"), help="Steepens the middle of the range (Schlick 1994).")
    invert = toggle(False, help="1 at the rim instead.")
    out = gives("number")

    def emit(self, ops, dials):
        facing = ops.facing
        if dials.scale == "angle":
            facing = ops.one_minus(ops.mul(ops.acos(facing), ops.constant(2 / pi)))
        facing = ops.gain(ops.bias(facing, dials.bias), dials.gain)
        return ops.one_minus(facing) if dials.invert else facing


@SLIPS.kind(title="Position", family="where", standard="position")
class Position:
    """Where on the form: its own axes, from its centre, y upwards, in cm. The height runs from 0 to 1 over a span."""

    span = dial(
        10,
        1,
        100,
        hard=(0.001, 100000),
        unit="cm",
        scale="log",
        ends=("fine", "broad"),
        help="The span of the height, about the centre.",
    )
    out = gives("vector")
    height = gives("number")

    def emit(self, ops, dials):
        _, y, _ = ops.position
        height = ops.add(ops.div(y, dials.span), ops.constant(0.5))
        return {"out": ops.position, "height": ops.clamp(height, ops.constant(0), ops.constant(1))}
