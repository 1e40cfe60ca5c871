from nineglass.describe import color_dial, dial
from nineglass.surrounds import BRIGHT, SURROUNDS


@SURROUNDS.kind(title="Plain", family="surround")
class Plain:
    """The same light from everywhere."""

    color = color_dial((1, 1, 1), label="Colour")
    strength = dial(0.5, 0.005, 20, **BRIGHT)

    def ends(self, dials):
        """(colour below, colour above, softness of the change between them)."""
        glow = [v * dials["strength"] for v in dials["color"]]
        return glow, glow, 1.0
