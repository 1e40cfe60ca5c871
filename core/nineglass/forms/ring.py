import numpy as np

from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.mesh import Mesh, lathe

AROUND_THE_WIRE = 40


@FORMS.kind(title="Ring", family="solid")
class Ring:
    """A round ring or an oval one, lying flat: a bow, a bangle, a link."""

    diameter = dial(4, 0.2, 40, hard=(0.01, 10000), unit="cm", scale="log", ends=("link", "hoop"))
    thickness = dial(0.5, 0.05, 5, hard=(0.001, 1000), unit="cm", scale="log", ends=("wire", "thick"))
    oval = dial(1, 0.4, 1, ends=("long", "round"), help="Its width over its length.")

    def mesh(self, dials) -> Mesh:
        wire = min(dials["thickness"] / 200, dials["diameter"] / 200 * 0.48)
        middle = dials["diameter"] / 200 - wire
        turn = np.linspace(0, 2 * np.pi, AROUND_THE_WIRE + 1)
        round_one = lathe(np.stack([middle + wire * np.cos(turn), wire + wire * np.sin(turn)], axis=1), around=120)
        stretch = np.array([1, 1, dials["oval"]])
        normals = round_one.normals / stretch
        normals /= np.linalg.norm(normals, axis=1, keepdims=True)
        return Mesh((round_one.vertices * stretch).astype(np.float32), normals.astype(np.float32), round_one.faces)
