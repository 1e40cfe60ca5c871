from nineglass.describe import color_dial, dial
from nineglass.surrounds import BRIGHT, SURROUNDS


@SURROUNDS.kind(title="Gradient", family="surround")
class Gradient:
    """One light from below, another from above, and a change at the horizon."""

    above = color_dial((0.8, 0.88, 1.0), label="Above")
    below = color_dial((0.12, 0.11, 0.1), label="Below")
    strength = dial(0.5, 0.005, 20, **BRIGHT)
    softness = dial(0.5, 0.01, 1, ends=("sharp horizon", "slow"), help="How far from the horizon the change reaches.")

    def ends(self, dials):
        """(colour below, colour above, softness of the change between them)."""
        below, above = ([v * dials["strength"] for v in dials[name]] for name in ("below", "above"))
        return below, above, dials["softness"]
