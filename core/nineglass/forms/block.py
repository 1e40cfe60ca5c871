import numpy as np

from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.mesh import Mesh, centred, prism

STEPS = 5


@FORMS.kind(title="Step block", family="solid")
class StepBlock:
    """Five steps side by side, one to five thicknesses deep: thin and thick at once."""

    thickness = dial(
        1,
        0.1,
        10,
        hard=(0.001, 1000),
        unit="cm",
        scale="log",
        ends=("sliver", "slab"),
        help="Depth of the thinnest step.",
    )
    width = dial(
        2, 0.5, 10, hard=(0.001, 1000), unit="cm", scale="log", ends=("narrow", "wide"), help="Width of a step."
    )
    height = dial(5, 1, 30, hard=(0.001, 1000), unit="cm", scale="log", ends=("low", "tall"))

    def mesh(self, dials) -> Mesh:
        thickness, width = dials["thickness"] / 100, dials["width"] / 100
        outline = [(STEPS * width, 0.0)]
        for step in range(STEPS, 0, -1):
            outline += [(step * width, step * thickness), ((step - 1) * width, step * thickness)]
        outline.append((0.0, 0.0))
        return centred(prism(np.array(outline), dials["height"] / 100))
