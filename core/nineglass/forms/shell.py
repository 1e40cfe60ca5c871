import numpy as np

from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.mesh import Mesh, lathe

STEPS = 40


@FORMS.kind(title="Shell", family="solid")
class Shell:
    """A shallow bowl, longer than wide and waved along its rim, like the half of a sea shell."""

    length = dial(12, 2, 40, hard=(0.01, 10000), unit="cm", scale="log", ends=("cockle", "dish"))
    narrow = dial(0.75, 0.3, 1, ends=("long", "round"), help="Its width over its length.")
    deep = dial(0.3, 0.05, 0.8, ends=("flat", "deep"), help="Its depth over half its length.")
    thickness = dial(0.35, 0.05, 2, hard=(0.001, 100), unit="cm", scale="log", ends=("thin", "thick"))
    waves = dial(0.05, 0, 0.2, ends=("smooth", "waved"), help="How far the rim swings up and down.")

    def mesh(self, dials) -> Mesh:
        radius, wall = dials["length"] / 200, dials["thickness"] / 100
        r = np.linspace(0, 1, STEPS)
        bowl = dials["deep"] * radius * r**2
        outer = np.stack([r * radius, bowl], axis=1)
        inner = np.stack(
            [r[::-1] * (radius - wall * 0.6), bowl[::-1] + wall * (0.35 + 0.65 * (1 - r[::-1] ** 4))], axis=1
        )
        solid = lathe(np.vstack([outer, inner]), around=160)
        x, y, z = solid.vertices.astype(float).T
        around = np.arctan2(x, z)
        out = np.hypot(x, z) / radius
        swing = dials["waves"] * radius
        lift = swing * out**2 * (np.sin(5 * around) + 0.5 * np.sin(9 * around + 1.2) + 0.8 * np.sin(2 * around))
        places = np.stack([x, y + lift, z * dials["narrow"]], axis=1)
        return _smoothed(places, solid)


def _smoothed(places: np.ndarray, solid: Mesh) -> Mesh:
    """The moved places with normals from their faces, places that fall together sharing one where they were smooth before."""
    corners = places[solid.faces]
    flat = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    keys = np.round(np.concatenate([solid.vertices / 1e-6, solid.normals * 50], axis=1)).astype(np.int64)
    _, which = np.unique(keys, axis=0, return_inverse=True)
    which = which.reshape(-1)
    total = np.zeros((which.max() + 1, 3))
    for k in range(3):
        np.add.at(total, which[solid.faces[:, k]], flat)
    normals = total[which]
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-20)
    return Mesh(places.astype(np.float32), normals.astype(np.float32), solid.faces)
