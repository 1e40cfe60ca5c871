import itertools

from nineglass.describe import choice, color_stops, dial, gives, number_stops
from nineglass.network.slips import SLIPS

CURVES = ("linear", "smooth", "step")


def _along(ops, at, stops, curve, constant):
    value = constant(stops[0][1])
    for (low, _), (high, beyond) in itertools.pairwise(stops):
        if curve == "step" or high <= low:
            share = ops.one_minus(ops.less(at, ops.constant(high)))
        else:
            share = ops.step_between(at, ops.constant(low), ops.constant(high))
            share = ops.smooth(share) if curve == "smooth" else share
        value = ops.mix(value, constant(beyond), share)
    return value


@SLIPS.kind(title="Ramp", family="shape", standard="ramp")
class Ramp:
    """A number for each place from 0 to 1: linear, smooth or in steps between the stops."""

    at = dial(0.5, 0, 1, hard=(-1000, 1000), label="At", ends=("start", "end"), help="Where on the ramp.")
    curve = choice(*CURVES, help="How to go from stop to stop.")
    stops = number_stops([[0.0, 0.4], [1.0, 0.0]])
    out = gives("number")

    def emit(self, ops, dials):
        return _along(ops, dials.at, dials.stops, dials.curve, ops.constant)


@SLIPS.kind(title="Colour ramp", family="shape", standard="ramp")
class ColorRamp:
    """A colour for each place from 0 to 1: linear, smooth or in steps between the stops."""

    at = dial(0.5, 0, 1, hard=(-1000, 1000), label="At", ends=("start", "end"), help="Where on the ramp.")
    curve = choice(*CURVES, help="How to go from stop to stop.")
    stops = color_stops([[0.0, [0.1, 0.3, 0.25]], [1.0, [0.75, 0.9, 0.8]]])
    out = gives("color")

    def emit(self, ops, dials):
        return _along(ops, dials.at, dials.stops, dials.curve, ops.constants)
