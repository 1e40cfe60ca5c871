from math import pi, radians

import numpy as np

from nineglass.describe import dial
from nineglass.lamps import LAMPS
from nineglass.lamps.light import DISC, Aimed, Light, axes, beam_of, with_beam


@LAMPS.kind(title="Spot lamp", family="area")
class Spot(Aimed):
    """A lamp with a lens that throws a cone of light at the middle of the stage; its edge is hard or soft."""

    sign = "beam"
    synonyms = "cone beam theatre fresnel torch"

    diameter = dial(
        6, 0.5, 60, hard=(0.05, 10000), unit="cm", scale="log", ends=("pinhole", "lens"), help="Of the lens that glows."
    )
    cone = dial(24, 4, 120, hard=(2, 178), unit="deg", ends=("pencil", "flood"), help="From edge to edge of the light.")
    edge = dial(0.35, 0, 1, ends=("hard", "soft"), help="The share of the cone over which the light fades.")

    def light(self, dials) -> Light:
        toward, side, up = axes(dials)
        radius = dials["diameter"] / 200
        half, edge = radians(dials["cone"] / 2), dials["edge"]

        def share(angle, turn):
            t = np.clip((half - angle) / np.maximum(edge * half, 1e-3), 0, 1)
            return t * t * (3 - 2 * t)

        # All of the power leaves within the cone: what a disc would send past it is thrown forward.
        radiance = dials["power"] / (pi * pi * radius * radius)
        centre = toward * dials["distance"] / 100
        lamp = Light(DISC, centre, side * radius, up * radius, radiance, dials["kelvin"], dials["color"])
        return with_beam(lamp, beam_of(share, slanted=True), 0.0)
