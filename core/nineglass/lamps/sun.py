from math import pi, radians, sin

from nineglass.describe import dial
from nineglass.lamps import LAMPS
from nineglass.lamps.light import SUN, Colored, Light, axes


@LAMPS.kind(title="Sun", family="far")
class Sun(Colored):
    """Light from far away, nearly parallel."""

    sign = "sun"
    irradiance = dial(
        3, 0.05, 100, hard=(0, 1e9), unit="W/m2", scale="log", ends=("haze", "noon"), help="On a surface that faces it."
    )
    azimuth = dial(50, -180, 180, hard=(-3600, 3600), unit="deg", ends=("left", "right"), help="0 is the front.")
    elevation = dial(35, 0, 90, hard=(-90, 90), unit="deg", ends=("horizon", "zenith"))
    diameter = dial(
        0.53, 0.1, 20, hard=(0.05, 90), unit="deg", scale="log", ends=("hard", "soft"), help="The true sun: 0.53."
    )

    def light(self, dials) -> Light:
        toward, side, up = axes(dials)
        spread = radians(dials["diameter"] / 2)
        radiance = dials["irradiance"] / (pi * sin(spread) ** 2)
        return Light(SUN, toward, side, up, radiance, dials["kelvin"], dials["color"], spread=spread)
