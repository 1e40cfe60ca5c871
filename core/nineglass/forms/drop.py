import numpy as np

from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.mesh import Mesh, lathe

STEPS = 96


@FORMS.kind(title="Drop", family="liquid")
class Drop:
    """A drop: round below, drawn out above."""

    diameter = dial(4, 0.2, 20, hard=(0.001, 1000), unit="cm", scale="log", ends=("dew", "bulb"))
    drawn = dial(0.5, 0, 1, ends=("round", "falling"), help="How far it is drawn out to its tip.")

    def mesh(self, dials) -> Mesh:
        # A curve with a round foot and a pointed top; of the family of the piriform (teardrop) curves.
        r, power = dials["diameter"] / 200, 1.5 * dials["drawn"]
        t = np.linspace(0, np.pi, STEPS)
        radius = np.sin(t) * np.cos(t / 2) ** power
        radius *= r / radius.max()
        height = r * (1 + 0.7 * dials["drawn"]) * (1 - np.cos(t))
        radius[[0, -1]] = 0
        return lathe(np.stack([radius, height], axis=1), around=128)
