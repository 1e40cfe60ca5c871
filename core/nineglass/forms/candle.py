import numpy as np

from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.mesh import Mesh, centred, lathe

RIM = 9


@FORMS.kind(title="Candle", family="solid")
class Candle:
    """A round candle that has burned for a while: a hollow has melted into its top."""

    diameter = dial(4.4, 1, 12, hard=(0.01, 1000), unit="cm", scale="log", ends=("taper", "pillar"))
    height = dial(8, 1, 40, hard=(0.01, 1000), unit="cm", scale="log", ends=("stub", "new"))
    melted = dial(0.9, 0, 3, hard=(0, 100), label="Melted hollow", unit="cm", ends=("flat", "deep"))

    def mesh(self, dials) -> Mesh:
        r, h = dials["diameter"] / 200, dials["height"] / 100
        deep, edge = min(dials["melted"] / 100, 0.9 * h), 0.12 * r
        turn = np.linspace(0, np.pi, RIM)
        rim = [(r - edge + edge * np.cos(a), h - edge + edge * np.sin(a)) for a in turn]
        inner = r - 2 * edge
        share = np.linspace(1, 0, RIM)
        bowl = [(inner * s, h - edge - (deep * (1 - s * s))) for s in share[1:]]
        return centred(lathe([(0, 0), (r - edge / 2, 0), (r, edge / 2), *rim, *bowl], around=128))
