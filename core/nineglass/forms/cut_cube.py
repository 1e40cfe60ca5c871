import numpy as np

from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.mesh import Mesh, from_planes


@FORMS.kind(title="Cut cube", family="cut stone")
class CutCube:
    """A cube with its corners and edges cut away: from a cube over a cuboctahedron to an octahedron."""

    size = dial(4, 0.2, 20, hard=(0.01, 1000), unit="cm", scale="log", ends=("bead", "block"))
    corners = dial(0.25, 0, 1, ends=("whole", "octahedron"), help="How far the eight corners are cut away.")
    edges = dial(0.12, 0, 0.6, ends=("sharp", "cut"), help="How far the twelve edges are cut away.")

    def mesh(self, dials) -> Mesh:
        half = dials["size"] / 200
        signs = np.array(np.meshgrid(*[(-1, 0, 1)] * 3)).reshape(3, -1).T
        planes = []
        for one in signs[np.abs(signs).sum(axis=1) > 0]:
            ways = np.abs(one).sum()
            cut = {1: 0.0, 2: dials["edges"], 3: 2 / 3 * dials["corners"]}[int(ways)]
            if ways == 1 or cut > 1e-4:
                planes.append([*(one / np.sqrt(ways)), half * np.sqrt(ways) * (1 - cut)])
        return from_planes(planes)
