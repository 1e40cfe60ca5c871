import numpy as np

from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.mesh import Mesh, centred, prism


@FORMS.kind(title="Sheet", family="solid")
class Sheet:
    """A flat sheet with thickness, upright and facing the front."""

    width = dial(10, 1, 60, hard=(0.01, 10000), unit="cm", scale="log", ends=("strip", "pane"))
    height = dial(10, 1, 60, hard=(0.01, 10000), unit="cm", scale="log", ends=("low", "tall"))
    thickness = dial(0.4, 0.02, 5, hard=(0.0005, 1000), unit="cm", scale="log", ends=("film", "slab"))

    def mesh(self, dials) -> Mesh:
        half, depth = dials["width"] / 200, dials["thickness"] / 100
        outline = np.array([(half, 0.0), (half, depth), (-half, depth), (-half, 0.0)])
        return centred(prism(outline, dials["height"] / 100))
