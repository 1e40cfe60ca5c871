import numpy as np

from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.mesh import Mesh, inside_out, join, star


@FORMS.kind(title="Hollow float", family="vessel")
class HollowFloat:
    """A hand-blown hollow ball: the wall is thick in places, thin in others, thickest at the seal below."""

    hollow = "inside the hollow: air"

    diameter = dial(12, 2, 60, hard=(0.01, 10000), unit="cm", scale="log", ends=("bauble", "buoy"))
    wall = dial(0.45, 0.05, 3, hard=(0.001, 3000), label="Wall", unit="cm", scale="log", ends=("bubble", "heavy"))
    uneven = dial(0.5, 0, 1, label="Unevenness", ends=("machined", "hand-blown"), help="How much the wall varies.")

    def mesh(self, dials) -> Mesh:
        radius = dials["diameter"] / 200
        wall = min(dials["wall"] / 100, radius * 0.6)
        uneven = dials["uneven"]

        def outer(out):
            return radius * (1 + 0.018 * uneven * _swell(out, 0.4))

        def inner(out):
            seal = 1.6 * np.exp((-out[:, 1] - 1) / 0.035)
            thick = wall * (1 + uneven * (0.55 * _swell(out, 2.1) + seal))
            return np.maximum(outer(out) - thick, radius * 0.05)

        return join(star(outer, cells=56), inside_out(star(inner, cells=56)))


def _swell(out: np.ndarray, phase: float) -> np.ndarray:
    """A slow smooth variation over directions, about -1 to 1."""
    x, y, z = out.T
    waves = (
        np.sin(2.3 * x + 1.7 * y + phase) + np.sin(2.9 * y - 2.1 * z + 2 * phase) + np.sin(3.7 * z + 1.3 * x - phase)
    )
    return waves / 2.6
