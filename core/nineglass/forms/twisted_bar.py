import numpy as np

from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.mesh import Mesh, star


@FORMS.kind(title="Twisted bar", family="solid")
class TwistedBar:
    """A rounded square bar, upright and turned about its own length."""

    width = dial(4, 0.5, 20, hard=(0.01, 1000), unit="cm", scale="log", ends=("thin", "thick"))
    length = dial(14, 2, 60, hard=(0.02, 10000), unit="cm", scale="log", ends=("short", "long"))
    twist = dial(
        180, -720, 720, hard=(-3600, 3600), unit="deg", ends=("left", "right"), help="From its foot to its top."
    )
    edge = dial(5, 2, 24, hard=(2, 80), ends=("round", "sharp"), help="How sharp its edges are; 2 is an ellipsoid.")

    def mesh(self, dials) -> Mesh:
        half = np.array([dials["width"], dials["length"], dials["width"]]) / 200
        power = dials["edge"]
        solid = star(lambda out: (np.abs(out) ** power).sum(axis=1) ** (-1 / power), cells=96)
        places, normals = solid.vertices.astype(float) * half, solid.normals / half
        rate = np.radians(dials["twist"]) / (2 * half[1])
        angle = rate * places[:, 1]
        x, z = (_turned(places, angle)[:, k] for k in (0, 2))
        normals = _turned(normals, angle)
        # The inverse transpose of how the places are moved: what is turned sideways by height tilts the normal along the bar.
        normals[:, 1] -= rate * (z * normals[:, 0] - x * normals[:, 2])
        normals /= np.linalg.norm(normals, axis=1, keepdims=True)
        places = np.stack([x, places[:, 1], z], axis=1)
        return Mesh(places.astype(np.float32), normals.astype(np.float32), solid.faces)


def _turned(vectors: np.ndarray, angle: np.ndarray) -> np.ndarray:
    """(n, 3) turned about the vertical axis, each by its own angle."""
    c, s = np.cos(angle), np.sin(angle)
    x, y, z = vectors.T
    return np.stack([c * x + s * z, y, c * z - s * x], axis=1)
