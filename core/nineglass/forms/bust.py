import numpy as np

from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.mesh import Mesh, lathe
from nineglass.forms.vessels import outline


@FORMS.kind(title="Plain bust", family="solid")
class Bust:
    """A head without a face on a neck and a base: as hair, skin and masks are shown on."""

    height = dial(26, 4, 60, hard=(0.1, 10000), unit="cm", scale="log", ends=("figurine", "life size"))
    narrow = dial(0.8, 0.6, 1, ends=("narrow", "round"), help="Its breadth over its depth.")

    def mesh(self, dials) -> Mesh:
        h = dials["height"] / 100
        profile = outline(
            [(0, 0), (0.3, 0), (0.31, 0.03), (0.24, 0.12), (0.15, 0.24), (0.13, 0.34), (0.16, 0.42), (0.24, 0.52), (0.29, 0.66),
             (0.29, 0.79), (0.22, 0.92), (0.1, 0.99), (0, 1.0)]
        )  # fmt: skip
        solid = lathe(np.asarray(profile) * h, around=128)
        narrow = np.array([dials["narrow"], 1, 1])
        normals = solid.normals / narrow
        normals /= np.linalg.norm(normals, axis=1, keepdims=True)
        return Mesh((solid.vertices * narrow).astype(np.float32), normals.astype(np.float32), solid.faces)
