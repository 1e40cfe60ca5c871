"""Cut stones from published proportions. Angles are those of the facets to the girdle's plane."""

from math import cos, radians, sin, tan

import numpy as np

from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.mesh import Mesh, from_planes

SIZE = {"hard": (0.01, 1000), "unit": "cm", "scale": "log", "ends": ("chip", "showpiece")}


def facet(azimuth_deg: float, angle_deg: float, distance: float) -> list[float]:
    """A plane at an angle to the horizontal, facing up for angles above 0; distance from the origin."""
    a, b = radians(azimuth_deg), radians(abs(angle_deg))
    return [sin(a) * sin(b), cos(b) if angle_deg > 0 else -cos(b), cos(a) * sin(b), distance]


def through(azimuth_deg: float, angle_deg: float, radius: float, height: float) -> list[float]:
    """The facet that meets the point at a radius and height in the middle of its azimuth."""
    b = radians(abs(angle_deg))
    return facet(azimuth_deg, angle_deg, radius * sin(b) + height * (cos(b) if angle_deg > 0 else -cos(b)))


@FORMS.kind(title="Brilliant cut", family="cut stone")
class BrilliantCut:
    """A round brilliant of 57 facets. The proportions are those that Tolkowsky found for diamond (1919): table 53 %, crown 34.5, pavilion 40.75."""

    diameter = dial(1.2, 0.2, 10, **SIZE)
    table = dial(
        53, 45, 70, hard=(20, 90), unit="%", ends=("small", "broad"), help="Width of the table over the diameter."
    )
    crown_angle = dial(34.5, 25, 42, hard=(5, 60), unit="deg", ends=("flat", "steep"))
    pavilion_angle = dial(40.75, 36, 46, hard=(20, 65), unit="deg", ends=("flat", "steep"))
    girdle = dial(2.5, 0.5, 8, hard=(0.2, 20), unit="%", ends=("thin", "thick"), help="Height over the diameter.")

    def mesh(self, dials) -> Mesh:
        r = dials["diameter"] / 200
        return from_planes(self._planes(r, dials))

    def _planes(self, r: float, dials) -> list:
        crown, pavilion, table = dials["crown_angle"], dials["pavilion_angle"], dials["table"] / 100 * r
        half = dials["girdle"] / 100 * r
        top = half + (r - table) * tan(radians(crown))
        planes = [[0.0, 1.0, 0.0, top]]
        inner = r * cos(radians(11.25))
        for k in range(8):
            planes.append(through(45 * k, crown, r, half))
            planes.append(through(45 * k, -pavilion, r, -half))
            planes.append(self._star(45 * k + 22.5, crown, table, top))
        for k in range(16):
            azimuth = 22.5 * k + 11.25
            planes.append(through(azimuth, crown + 6.5, inner, half))
            planes.append(through(azimuth, -(pavilion + 1.6), inner, -half))
        planes += [facet(360 / 64 * (k + 0.5), 90, r * cos(radians(2.8)) * 0.985) for k in range(64)]
        return planes

    @staticmethod
    def _star(azimuth: float, crown: float, table: float, top: float) -> list:
        """A star facet, along the table's edge."""
        return through(azimuth, crown * 0.62, table * cos(radians(22.5)), top)


LEAST_STEP_DEG = 2.0


@FORMS.kind(title="Step cut", family="cut stone")
class StepCut:
    """A step (emerald) cut with cropped corners: three steps above the girdle, three below."""

    length = dial(1.6, 0.2, 10, **SIZE)
    width = dial(1.1, 0.2, 10, **SIZE)
    table = dial(
        60, 45, 75, hard=(20, 90), unit="%", ends=("small", "broad"), help="Width of the table over the width."
    )
    crown_angle = dial(36, 25, 50, hard=(5, 70), unit="deg", ends=("flat", "steep"), help="Of the middle step.")
    pavilion_angle = dial(43, 36, 55, hard=(20, 75), unit="deg", ends=("flat", "steep"), help="Of the middle step.")
    corner = dial(18, 5, 35, hard=(0, 45), unit="%", label="Corners", ends=("sharp", "cropped"))

    def mesh(self, dials) -> Mesh:
        a, b = dials["length"] / 200, dials["width"] / 200
        cut = dials["corner"] / 100 * 2 * min(a, b)
        half = 0.03 * min(a, b)
        sides = [(0, b), (90, a), (180, b), (270, a)]
        sides += [(azimuth, (a + b - cut) / np.sqrt(2)) for azimuth in (45, 135, 225, 315)]
        planes = [facet(azimuth, 90, reach) for azimuth, reach in sides]
        table = dials["table"] / 100 * b
        planes += self._steps(sides, b - table, half, dials["crown_angle"], 1)
        top = half + self._height(b - table, dials["crown_angle"])
        planes.append([0.0, 1.0, 0.0, top])
        planes += self._steps(sides, b * 0.94, half, dials["pavilion_angle"], -1)
        return from_planes(planes)

    SHARES = (0.3, 0.35, 0.35)
    STEPS_DEG = (9.0, 0.0, -9.0)

    def _height(self, inwards: float, angle: float) -> float:
        angles = self._angles(angle)
        return sum(inwards * share * tan(radians(one)) for share, one in zip(self.SHARES, angles, strict=True))

    def _angles(self, angle: float) -> list[float]:
        """Of the three steps, none of them level."""
        return [max(angle + more, LEAST_STEP_DEG) for more in self.STEPS_DEG]

    def _steps(self, sides, inwards: float, half: float, angle: float, way: int) -> list:
        planes = []
        for azimuth, reach in sides:
            radius, height = reach, half
            for share, one in zip(self.SHARES, self._angles(angle), strict=True):
                planes.append(through(azimuth, way * one, radius, way * height))
                radius -= inwards * share
                height += inwards * share * tan(radians(one))
        return planes
