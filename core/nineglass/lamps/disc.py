from math import pi

from nineglass.describe import dial
from nineglass.lamps import LAMPS
from nineglass.lamps.light import DISC, Aimed, Light, axes


@LAMPS.kind(title="Disc lamp", family="area")
class Disc(Aimed):
    """A round soft box aimed at the middle of the stage; one side of it glows."""

    sign = "disc"
    diameter = dial(30, 1, 300, hard=(0.1, 100000), unit="cm", scale="log", ends=("spot", "wall"))

    def light(self, dials) -> Light:
        toward, side, up = axes(dials)
        radius = dials["diameter"] / 200
        radiance = dials["power"] / (pi * pi * radius * radius)
        centre = toward * dials["distance"] / 100
        return Light(DISC, centre, side * radius, up * radius, radiance, dials["kelvin"], dials["color"])
