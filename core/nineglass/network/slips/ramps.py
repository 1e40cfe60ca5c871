import itertools

from nineglass.describe import choice, color_dial, color_stops, dial, gives, number_stops
from nineglass.network.slips import SLIPS
from nineglass.network.slips.arithmetic import ANY

CURVES = ("linear", "smooth", "step")


def along_stops(ops, at, stops, curve, constant):
    value = constant(stops[0][1])
    for (low, _), (high, beyond) in itertools.pairwise(stops):
        if curve == "step" or high <= low:
            share = ops.one_minus(ops.less(at, ops.constant(high)))
        else:
            share = ops.step_between(at, ops.constant(low), ops.constant(high))
            share = ops.smooth(share) if curve == "smooth" else share
        value = ops.mix(value, constant(beyond), share)
    return value


def along_driven_stops(ops, dials, values):
    """Through four stops whose places are dials."""
    value = values[0]
    for n in (2, 3, 4):
        low, high = getattr(dials, f"place_{n - 1}"), getattr(dials, f"place_{n}")
        share = ops.step_between(dials.at, low, high)
        if dials.curve == "step":
            share = ops.one_minus(ops.less(dials.at, high))
        value = ops.mix(value, values[n - 1], ops.smooth(share) if dials.curve == "smooth" else share)
    return value


def _place(number: int, place: float):
    return dial(place, 0, 1, label=f"Place {number}", **ANY)


def _stop(number: int, place: float, value: float):
    return _place(number, place), dial(value, 0, 1, label=f"Value {number}", **ANY)


def _color_stop(number: int, place: float, color: tuple):
    return _place(number, place), color_dial(color, hard=(0, 1000), label=f"Colour {number}")


@SLIPS.kind(title="Ramp", family="shape", standard="ramp")
class Ramp:
    """A number for each place from 0 to 1: linear, smooth or in steps between the stops."""

    at = dial(0.5, 0, 1, hard=(-1000, 1000), label="At", ends=("start", "end"), help="Where on the ramp.")
    curve = choice(*CURVES, help="How to go from stop to stop.")
    stops = number_stops([[0.0, 0.4], [1.0, 0.0]], joined="curve")
    out = gives("number")

    def emit(self, ops, dials):
        return along_stops(ops, dials.at, dials.stops, dials.curve, ops.constant)


@SLIPS.kind(title="Colour ramp", family="shape", standard="ramp")
class ColorRamp:
    """A colour for each place from 0 to 1: linear, smooth or in steps between the stops."""

    at = dial(0.5, 0, 1, hard=(-1000, 1000), label="At", ends=("start", "end"), help="Where on the ramp.")
    curve = choice(*CURVES, help="How to go from stop to stop.")
    stops = color_stops([[0.0, [0.1, 0.3, 0.25]], [1.0, [0.75, 0.9, 0.8]]], joined="curve")
    out = gives("color")

    def emit(self, ops, dials):
        return along_stops(ops, dials.at, dials.stops, dials.curve, ops.constants)


@SLIPS.kind(title="Driven ramp", family="shape", standard="ramp4")
class DrivenRamp:
    """A number for each place from 0 to 1, through four stops whose places and values can all be driven."""

    at = dial(0.5, 0, 1, hard=(-1000, 1000), label="At", ends=("start", "end"), help="Where on the ramp.")
    curve = choice(*CURVES, help="How to go from stop to stop.")
    place_1, value_1 = _stop(1, 0.0, 0.0)
    place_2, value_2 = _stop(2, 0.33, 0.33)
    place_3, value_3 = _stop(3, 0.67, 0.67)
    place_4, value_4 = _stop(4, 1.0, 1.0)
    out = gives("number")

    def emit(self, ops, dials):
        return along_driven_stops(ops, dials, [dials.value_1, dials.value_2, dials.value_3, dials.value_4])


@SLIPS.kind(title="Driven colour ramp", family="shape", standard="ramp4")
class DrivenColorRamp:
    """A colour for each place from 0 to 1, through four stops whose places and colours can all be driven."""

    at = dial(0.5, 0, 1, hard=(-1000, 1000), label="At", ends=("start", "end"), help="Where on the ramp.")
    curve = choice(*CURVES, help="How to go from stop to stop.")
    place_1, color_1 = _color_stop(1, 0.0, (0.02, 0.05, 0.08))
    place_2, color_2 = _color_stop(2, 0.33, (0.08, 0.3, 0.35))
    place_3, color_3 = _color_stop(3, 0.67, (0.5, 0.65, 0.5))
    place_4, color_4 = _color_stop(4, 1.0, (0.95, 0.9, 0.75))
    out = gives("color")

    def emit(self, ops, dials):
        return along_driven_stops(ops, dials, [dials.color_1, dials.color_2, dials.color_3, dials.color_4])


@SLIPS.kind(title="Curve", family="shape", standard="curvelookup")
class Curve:
    """A number drawn over 0 to 1, smooth through all its points without running past them (Fritsch & Carlson 1980)."""

    synonyms = "spline profile shape"
    at = dial(0.5, 0, 1, hard=(-1000, 1000), label="At", ends=("start", "end"), help="Where on the curve.")
    stops = number_stops([[0.0, 0.0], [0.35, 0.15], [0.65, 0.85], [1.0, 1.0]], joined="through")
    out = gives("number")

    def emit(self, ops, dials):
        points = [tuple(stop) for i, stop in enumerate(dials.stops) if i == 0 or stop[0] > dials.stops[i - 1][0]]
        value, slopes = ops.constant(points[0][1]), _slopes(points)
        for i, ((low, a), (high, b)) in enumerate(itertools.pairwise(points)):
            span, t = high - low, ops.step_between(dials.at, ops.constant(low), ops.constant(high))
            first, second = slopes[i] * span, slopes[i + 1] * span
            cubic = ops.constant(first + second - 2 * (b - a))
            square = ops.constant(3 * (b - a) - 2 * first - second)
            rise = ops.mul(ops.add(ops.mul(ops.add(ops.mul(cubic, t), square), t), ops.constant(first)), t)
            value = ops.add(value, rise)
        return value


def _slopes(points) -> list[float]:
    """Slopes at the points of a curve that rises and falls only where they do. Source: Fritsch & Carlson 1980."""
    steps = [(b[1] - a[1]) / (b[0] - a[0]) for a, b in itertools.pairwise(points)]
    if not steps:
        return [0.0]
    inner = [0.0 if p * q <= 0 else 2 * p * q / (p + q) for p, q in itertools.pairwise(steps)]
    return [steps[0], *inner, steps[-1]]
