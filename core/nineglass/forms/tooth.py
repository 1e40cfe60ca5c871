import numpy as np

from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.mesh import Mesh, centred, lathe

RINGS = 48


@FORMS.kind(title="Tooth", family="solid")
class Tooth:
    """A tooth as of a whale: a bent cone, its root at the bottom and its tip on top."""

    length = dial(11, 1, 30, hard=(0.01, 1000), unit="cm", scale="log", ends=("milk tooth", "tusk"))
    thickness = dial(3.6, 0.3, 12, hard=(0.001, 1000), unit="cm", scale="log", ends=("slender", "stout"))
    bend = dial(0.5, 0, 1, hard=(-2, 2), ends=("straight", "hooked"), help="How far the tip leans, of the length.")

    def mesh(self, dials) -> Mesh:
        length, thick = dials["length"] / 100, dials["thickness"] / 200
        share = np.linspace(0, 1, RINGS)
        belly = 0.82 + 0.5 * share * (1 - share)
        radius = thick * belly * np.sqrt(np.maximum(1 - share**2.2, 0))
        straight = lathe([(0, 0), *zip(radius[:-1], length * share[:-1], strict=True), (0, length)], around=96)
        return centred(_bent(straight, length, dials["bend"]))


def _bent(mesh: Mesh, length: float, bend: float) -> Mesh:
    """Moved aside by the square of the height; normals follow the slope."""
    vertices, normals = mesh.vertices.astype(float), mesh.normals.astype(float)
    vertices[:, 0] += bend * length / 2 * ((vertices[:, 1] / length) ** 2 - 0.5)
    normals[:, 1] -= normals[:, 0] * bend * mesh.vertices[:, 1] / length
    normals /= np.linalg.norm(normals, axis=1)[:, None]
    return Mesh(vertices.astype(np.float32), normals.astype(np.float32), mesh.faces)
