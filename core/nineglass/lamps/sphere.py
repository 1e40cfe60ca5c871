from math import pi

from nineglass.describe import dial
from nineglass.lamps import LAMPS
from nineglass.lamps.light import SPHERE, Aimed, Light, axes


@LAMPS.kind(title="Sphere lamp", family="area")
class Sphere(Aimed):
    """A glowing ball, alike from all sides."""

    sign = "ball"
    diameter = dial(10, 0.5, 100, hard=(0.05, 100000), unit="cm", scale="log", ends=("bulb", "moon"))

    def light(self, dials) -> Light:
        toward, side, up = axes(dials)
        radius = dials["diameter"] / 200
        radiance = dials["power"] / (4 * pi * pi * radius * radius)
        centre = toward * dials["distance"] / 100
        return Light(
            SPHERE, centre, side * radius, up * radius, radiance, dials["kelvin"], dials["color"], spread=radius
        )
