from math import pi

from nineglass.describe import dial
from nineglass.lamps import LAMPS
from nineglass.lamps.light import RECTANGLE, Aimed, Light, axes


@LAMPS.kind(title="Rectangle lamp", family="area")
class Rectangle(Aimed):
    """A soft box or strip aimed at the middle of the stage; one side of it glows."""

    sign = "bar"
    width = dial(30, 1, 300, hard=(0.1, 100000), unit="cm", scale="log", ends=("strip", "wall"))
    height = dial(60, 1, 300, hard=(0.1, 100000), unit="cm", scale="log", ends=("strip", "wall"))

    def light(self, dials) -> Light:
        toward, side, up = axes(dials)
        width, height = dials["width"] / 100, dials["height"] / 100
        radiance = dials["power"] / (pi * width * height)
        centre = toward * dials["distance"] / 100
        return Light(RECTANGLE, centre, side * width / 2, up * height / 2, radiance, dials["kelvin"], dials["color"])
