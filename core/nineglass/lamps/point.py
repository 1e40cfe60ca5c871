from math import pi

from nineglass.lamps import LAMPS
from nineglass.lamps.light import POINT, Aimed, Light, axes


@LAMPS.kind(title="Point lamp", family="point")
class Point(Aimed):
    """A lamp without size. Only matt and rough surfaces answer to it; polished glass cannot see it."""

    sign = "point"

    def light(self, dials) -> Light:
        toward, side, up = axes(dials)
        centre, intensity = toward * dials["distance"] / 100, dials["power"] / (4 * pi)
        return Light(POINT, centre, side * 0, up * 0, intensity, dials["kelvin"], dials["color"])
