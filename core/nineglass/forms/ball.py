import numpy as np

from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.mesh import Mesh, star


@FORMS.kind(title="Solid ball", family="solid")
class Ball:
    """A ball of matter through and through."""

    diameter = dial(6, 1, 30, hard=(0.01, 10000), unit="cm", scale="log", ends=("bead", "buoy"))

    def mesh(self, dials) -> Mesh:
        return star(lambda out: np.full(len(out), dials["diameter"] / 200), cells=64)
