import numpy as np

from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.mesh import Mesh, star

LENGTH = {"hard": (0.01, 10000), "unit": "cm", "scale": "log"}


@FORMS.kind(title="Rounded box", family="solid")
class RoundedBox:
    """A solid box with rounded edges; long and thin it is a blade, and with round edges a pebble."""

    width = dial(12, 1, 40, ends=("narrow", "wide"), **LENGTH)
    height = dial(6, 0.2, 40, ends=("low", "tall"), **LENGTH)
    depth = dial(8, 0.2, 40, ends=("thin", "deep"), **LENGTH)
    edge = dial(16, 2, 40, hard=(2, 80), ends=("round", "sharp"), help="How sharp the edges are; 2 is an ellipsoid.")
    taper = dial(0, 0, 0.95, ends=("even", "pointed"), help="How much thinner one end is.")

    def mesh(self, dials) -> Mesh:
        half = np.array([dials["width"], dials["height"], dials["depth"]]) / 200
        power = dials["edge"]
        solid = star(lambda out: (np.abs(out) ** power).sum(axis=1) ** (-1 / power), cells=72)
        places, normals = solid.vertices.astype(float) * half, solid.normals / half
        along = (places[:, 0] / half[0] + 1) / 2
        share = 1 - dials["taper"] * along
        slope = -dials["taper"] / (2 * half[0])
        # The normal of a tapered place: the inverse transpose of how the places are moved.
        normals[:, 0] -= slope / share * (places[:, 1] * normals[:, 1] + places[:, 2] * normals[:, 2])
        places[:, 1:] *= share[:, None]
        normals[:, 1:] /= share[:, None]
        normals /= np.linalg.norm(normals, axis=1, keepdims=True)
        return Mesh(places.astype(np.float32), normals.astype(np.float32), solid.faces)
