"""What is around the form, and the camera that looks at it."""

from nineglass.describe import Catalogue, color_dial, dial

SURROUNDS = Catalogue("surround")
CAMERAS = Catalogue("camera")

BRIGHT = {"hard": (0, 100000), "scale": "log", "ends": ("dim", "bright")}


@SURROUNDS.kind(title="Plain", family="surround")
class Plain:
    """The same light from everywhere."""

    color = color_dial((1, 1, 1), label="Colour")
    strength = dial(0.5, 0.005, 20, **BRIGHT)

    def ends(self, dials):
        """(colour below, colour above, softness of the change between them)."""
        glow = [v * dials["strength"] for v in dials["color"]]
        return glow, glow, 1.0


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


@CAMERAS.kind(title="Camera", family="camera")
class Camera:
    """Looks at the form's centre, on a frame 36 mm wide."""

    focal_length = dial(80, 20, 300, hard=(5, 2000), unit="mm", scale="log", ends=("wide", "long"))
    distance = dial(45, 5, 500, hard=(1, 1000000), unit="cm", scale="log", ends=("close", "far"))
    azimuth = dial(0, -180, 180, hard=(-3600, 3600), unit="deg", ends=("left", "right"))
    elevation = dial(12, -10, 80, hard=(-89, 89), unit="deg", ends=("level", "from above"))
    f_stop = dial(
        22, 1, 64, hard=(0.5, 512), label="Aperture", scale="log", ends=("shallow", "deep"), help="The f-number."
    )
    exposure = dial(0, -6, 6, hard=(-20, 20), unit="EV", ends=("darker", "lighter"))
