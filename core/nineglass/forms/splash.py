import numpy as np

from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.mesh import Mesh

AROUND, ACROSS = 240, 72
RING, RING_WIDE = 0.74, 0.13
"""Where the wall that is thrown up stands, and how wide, over the reach."""


@FORMS.kind(title="Splash", family="liquid")
class Splash:
    """Liquid thrown on a plate: lobes run out all around, a wall stands up within their rim, and the middle is thin."""

    reach = dial(9, 1, 40, hard=(0.01, 1000), unit="cm", scale="log", ends=("drip", "puddle"))
    thickness = dial(0.5, 0.05, 5, hard=(0.001, 100), unit="cm", scale="log", ends=("film", "syrup"))
    lobes = dial(9, 0, 24, hard=(0, 60), ends=("round", "many"), help="How many run out; a whole number.")
    run = dial(0.22, 0, 0.5, ends=("even", "far"), help="How far they run out, over the reach.")
    wall = dial(1.6, 0, 5, ends=("settled", "thrown up"), help="How high the wall is, over the thickness.")

    def mesh(self, dials) -> Mesh:
        around = np.arange(AROUND) / AROUND * 2 * np.pi
        out = np.linspace(0, 1, ACROSS + 1)[1:]
        lobes = round(dials["lobes"])
        waves = np.cos(lobes * around + 0.9 * np.sin(2 * around + 0.4)) + 0.35 * np.cos(3 * around + 1.1)
        reach = dials["reach"] / 200 * (1 + dials["run"] * waves / 1.35) / (1 + dials["run"])
        ring = np.exp(-(((out[:, None] - RING) / RING_WIDE) ** 2)) * (1 + 0.5 * waves / 1.35)
        dome = (1 - out[:, None] ** 8) ** 0.5
        height = dials["thickness"] / 100 * dome * (0.55 + dials["wall"] * ring)
        top = np.stack([out[:, None] * reach * np.sin(around), height, out[:, None] * reach * np.cos(around)], axis=-1)
        middle = np.array([[0, 0.55 * dials["thickness"] / 100, 0]])
        places = np.concatenate([middle, top.reshape(-1, 3)])
        upper = _smooth(places, _faces())
        lower = Mesh(
            (upper.vertices * np.float32([1, 0, 1])).astype(np.float32),
            np.tile(np.float32([0, -1, 0]), (len(places), 1)),
            _faces()[:, ::-1],
        )
        return Mesh(
            np.concatenate([upper.vertices, lower.vertices]),
            np.concatenate([upper.normals, lower.normals]),
            np.concatenate([upper.faces, lower.faces + len(places)]).astype(np.int32),
        )


def _faces() -> np.ndarray:
    """Triangles from a middle out over rings."""
    j = np.arange(AROUND)
    after = (j + 1) % AROUND
    fan = np.stack([np.zeros_like(j), 1 + j, 1 + after], axis=1)
    starts = 1 + AROUND * np.arange(ACROSS - 1)[:, None]
    a, b, c, d = starts + j, starts + AROUND + j, starts + AROUND + after, starts + after
    rings = np.concatenate([np.stack([a, b, c], -1).reshape(-1, 3), np.stack([a, c, d], -1).reshape(-1, 3)])
    return np.concatenate([fan, rings]).astype(np.int32)


def _smooth(places: np.ndarray, faces: np.ndarray) -> Mesh:
    """A surface with the mean normal of the faces around each place."""
    a, b, c = (places[faces[:, k]] for k in range(3))
    flat = np.cross(b - a, c - a)
    normals = np.zeros_like(places)
    for k in range(3):
        np.add.at(normals, faces[:, k], flat)
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-20)
    return Mesh(places.astype(np.float32), normals.astype(np.float32), faces)
