from nineglass.describe import dial, gives, vector_in
from nineglass.network.slips import SLIPS

MOST_OCTAVES = 8


@SLIPS.kind(title="Fractal noise", family="pattern", standard="fractal3d")
class FractalNoise:
    """Cloudy variation through space, 0 to 1, finer and fainter with each octave."""

    place = vector_in(label="Place", help="Where to look it up; the place on the form when nothing is wired.")
    size = dial(
        1.0,
        0.05,
        20,
        hard=(0.001, 10000),
        unit="cm",
        scale="log",
        ends=("fine", "broad"),
        help="Size of the largest features.",
    )
    octaves = dial(3, 1, MOST_OCTAVES, ends=("plain", "detailed"), help="How many sizes are added; whole numbers.")
    diminish = dial(0.5, 0, 1, label="Diminish", ends=("smooth", "rough"), help="How much fainter each octave is.")
    out = gives("number")

    def emit(self, ops, dials):
        place = dials.place if "place" in dials.driven else ops.position
        octaves = round(ops.value_of(dials.octaves) or MOST_OCTAVES)
        place = tuple(ops.div(axis, dials.size) for axis in place)
        total = strength = None
        whole = ops.constant(0)
        for octave in range(octaves):
            strength = ops.constant(1) if octave == 0 else ops.mul(strength, dials.diminish)
            layer = ops.mul(ops.noise(place), strength)
            total = layer if octave == 0 else ops.add(total, layer)
            whole = ops.add(whole, strength)
            place = tuple(ops.add(ops.mul(axis, ops.constant(2.0)), ops.constant(17.31)) for axis in place)
        half = ops.constant(0.5)
        spread = ops.add(ops.mul(ops.div(total, whole), ops.constant(0.9)), half)
        return ops.clamp(spread, ops.constant(0), ops.constant(1))
