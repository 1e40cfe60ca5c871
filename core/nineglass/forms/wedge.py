from math import radians, tan

import numpy as np

from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.mesh import Mesh, centred, prism


@FORMS.kind(title="Wedge prism", family="solid")
class WedgePrism:
    """A prism on a triangle of two equal sides, upright."""

    angle = dial(60, 5, 90, hard=(1, 150), unit="deg", label="Apex angle", ends=("sliver", "blunt"))
    side = dial(
        5, 1, 20, hard=(0.01, 1000), unit="cm", scale="log", ends=("small", "large"), help="The base of the triangle."
    )
    height = dial(5, 1, 30, hard=(0.01, 1000), unit="cm", scale="log", ends=("low", "tall"))

    def mesh(self, dials) -> Mesh:
        half = dials["side"] / 200
        depth = half / tan(radians(dials["angle"] / 2))
        outline = np.array([(half, 0.0), (0.0, depth), (-half, 0.0)])
        return centred(prism(outline, dials["height"] / 100))
